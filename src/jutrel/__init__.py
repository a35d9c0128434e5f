"""Jutrel: the walk round an earthmoving machine, its readings, its grades and its record."""

__version__ = "0.1.0"
