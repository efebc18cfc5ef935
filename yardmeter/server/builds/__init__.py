"""Builds, plans and their revisions."""
