"""The demo job: an invented flood embankment, invented makers, people and numbers."""
