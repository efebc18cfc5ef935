"""Sizing: from what a plan asks to the next standard value that gives it."""
