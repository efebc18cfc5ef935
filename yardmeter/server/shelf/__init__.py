"""The shelf: parts that plans are made of."""
