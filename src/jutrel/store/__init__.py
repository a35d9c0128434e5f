"""The record store: PostgreSQL tables, their queries and their migrations."""
