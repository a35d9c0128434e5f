"""Defects: what was reported, who may set it aside, what is open."""
