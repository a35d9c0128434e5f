"""A run from key to key."""
