"""All tables, by room."""

from jutrel.store.tables.inspection import EntryRow, InspectionRow, PhotoRow
from jutrel.store.tables.machine import MachineEntryRow, MachineRow, ModelFileRow, SiteRow
from jutrel.store.tables.people import PersonRow, SessionRow

__all__ = [
    "EntryRow",
    "InspectionRow",
    "MachineEntryRow",
    "MachineRow",
    "ModelFileRow",
    "PersonRow",
    "PhotoRow",
    "SessionRow",
    "SiteRow",
]
