"""The way round a machine: routes, and what goes over the wire."""
