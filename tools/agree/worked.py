"""To be."""
