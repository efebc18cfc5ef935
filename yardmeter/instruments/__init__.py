"""Instruments on the bench: any that talks SCPI, and stand-ins that measure a build with a fault in it."""
