"""Alembic's environment: a plain connection to the address it is given."""

from alembic import context
from sqlalchemy import create_engine, pool

import jutrel.store.tables  # noqa: F401  (fills the metadata)
from jutrel.store.base import Base

url = context.config.get_main_option("sqlalchemy.url") or ""
engine = create_engine(url, poolclass=pool.NullPool)
with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata, compare_type=True)
    with context.begin_transaction():
        context.run_migrations()
