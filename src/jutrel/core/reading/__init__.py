"""Measurements: one physical topic a file, each a pure function that ends in a judgement."""
