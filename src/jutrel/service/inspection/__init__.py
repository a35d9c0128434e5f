"""Inspections and their records."""
