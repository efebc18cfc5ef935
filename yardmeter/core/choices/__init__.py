"""What decides between alternatives, as data: places of a device, where a signal falls off its margin, instants of a run."""
