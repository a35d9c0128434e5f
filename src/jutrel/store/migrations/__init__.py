"""Alembic migrations, run by `jutrel migrate`."""
