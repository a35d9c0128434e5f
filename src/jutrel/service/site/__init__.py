"""The site and its installation."""
