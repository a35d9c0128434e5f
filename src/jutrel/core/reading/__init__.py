"""Readings: what is measured, computed and judged."""
