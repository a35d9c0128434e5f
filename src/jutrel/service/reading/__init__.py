"""Readings."""
