"""Yard Meter: current budget, regulators, grounds and filters of a drone's electrics."""

__version__ = "0.1.0"
