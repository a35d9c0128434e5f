"""All tables, by what they hold."""

from jutrel.store.tables.account import AccountRow
from jutrel.store.tables.address import SiteAddressRow
from jutrel.store.tables.ask import AskRow
from jutrel.store.tables.company import CompanyAccountRow, CompanyAskedRow
from jutrel.store.tables.device import DeviceRow
from jutrel.store.tables.heartbeat import HeartbeatRow
from jutrel.store.tables.instrument import InstrumentRow
from jutrel.store.tables.log import EditionRow, EntryRow, PhotoRow, RecordRow, StreamRow
from jutrel.store.tables.machine import GoodPictureRow, MachineRow, ModelFileRow, SiteRow
from jutrel.store.tables.panel import PanelNowRow, PanelSampleRow, PanelToldRow, StandinOrderRow
from jutrel.store.tables.passkey import PasskeyAskedRow, PasskeyRow
from jutrel.store.tables.people import (
    OwnTabletRow,
    PenRow,
    PersonRow,
    PinGivenRow,
    RoleAskedRow,
    SessionRow,
    SiteKeyRow,
)
from jutrel.store.tables.projections import LookRow, OpenDefectRow, ReportRow
from jutrel.store.tables.setup import SetupCodeRow
from jutrel.store.tables.site import SchoolChoiceRow, TrainingRow

__all__ = [
    "AccountRow",
    "AskRow",
    "CompanyAccountRow",
    "CompanyAskedRow",
    "DeviceRow",
    "EditionRow",
    "EntryRow",
    "GoodPictureRow",
    "HeartbeatRow",
    "InstrumentRow",
    "LookRow",
    "MachineRow",
    "ModelFileRow",
    "OpenDefectRow",
    "OwnTabletRow",
    "PanelNowRow",
    "PanelSampleRow",
    "PanelToldRow",
    "PasskeyAskedRow",
    "PasskeyRow",
    "PenRow",
    "PersonRow",
    "PhotoRow",
    "PinGivenRow",
    "RecordRow",
    "ReportRow",
    "RoleAskedRow",
    "SchoolChoiceRow",
    "SessionRow",
    "SetupCodeRow",
    "SiteAddressRow",
    "SiteKeyRow",
    "SiteRow",
    "StandinOrderRow",
    "StreamRow",
    "TrainingRow",
]
