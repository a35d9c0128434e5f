"""The simulated outside world that ships with the product."""
