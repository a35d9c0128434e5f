"""From the key to the key: start, warm-up, function tests, work, shutdown, hand-over."""
