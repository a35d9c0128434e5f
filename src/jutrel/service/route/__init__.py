"""The way round a machine."""
