"""What a machine tells of itself over its bus: signals, faults, and what they mean."""
