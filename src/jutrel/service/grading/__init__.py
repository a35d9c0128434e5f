"""Grading and its rules."""
