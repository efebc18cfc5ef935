"""Pure computation: no Django, no files, no clock, no network, no randomness without a seed."""
