"""A machine and its file."""
