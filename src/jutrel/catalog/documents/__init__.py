"""What each kind of catalog file may hold."""
