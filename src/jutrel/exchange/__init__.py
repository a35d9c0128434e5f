"""Open formats: the record as JSON with its schema, and on paper as PDF."""
