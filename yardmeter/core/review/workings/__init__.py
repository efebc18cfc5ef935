"""Workings by element."""
