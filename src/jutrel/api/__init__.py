"""HTTP in, a service call, HTTP out. No rule lives here."""
