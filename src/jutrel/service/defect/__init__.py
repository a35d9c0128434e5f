"""Defects."""
