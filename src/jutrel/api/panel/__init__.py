"""What a machine tells over its bus: routes, and what goes over the wire."""
