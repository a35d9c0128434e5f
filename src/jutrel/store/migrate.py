"""Bringing a database up to the newest migration."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory


def alembic_config(url: str) -> Config:
    """Alembic's settings for a database address."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.set_main_option("sqlalchemy.url", url.replace("%", "%%"))
    return config


def migrate(url: str) -> None:
    """Run all migrations that have not run yet."""
    command.upgrade(alembic_config(url), "head")


def newest_revision() -> str:
    """The release of the database that this code is made for."""
    return str(ScriptDirectory.from_config(alembic_config("")).get_current_head())
