"""May a machine be started, and within which limits: routes, and what goes over the wire."""
