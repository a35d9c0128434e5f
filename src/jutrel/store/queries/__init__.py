"""Questions to the record store, by subject. They take a transaction and give the core's types; no row leaves."""
