"""Flights that were recorded: read, cut into phases, fitted, laid beside the plan, compared; and a recorder that flies a plan."""
