"""People: signing in, pens, the account of changes."""
