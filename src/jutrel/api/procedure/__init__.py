"""A run from key to key: routes, and what goes over the wire."""
