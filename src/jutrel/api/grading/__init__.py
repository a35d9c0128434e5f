"""Grading and its rules: routes, and what goes over the wire."""
