"""The site and its installation: routes, and what goes over the wire."""
