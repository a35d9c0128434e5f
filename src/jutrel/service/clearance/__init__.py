"""May a machine be started, and within which limits."""
