"""A machine and its file: routes, and what goes over the wire."""
