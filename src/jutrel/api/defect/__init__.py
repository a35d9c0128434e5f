"""Defects: routes, and what goes over the wire."""
