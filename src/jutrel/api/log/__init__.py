"""Entries as they come in, and the log that they stand in: routes, and what goes over the wire."""
