"""What a machine tells over its bus."""
