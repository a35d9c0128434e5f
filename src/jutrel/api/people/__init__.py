"""People: signing in, pens, the account of changes: routes, and what goes over the wire."""
