"""Inspections and their records: routes, and what goes over the wire."""
