"""Fixes that were tried: only what cures its finding and brings nothing as bad is offered."""

from yardmeter.core.fixes.filters import with_filters
from yardmeter.core.fixes.shelf import from_shelf
from yardmeter.core.fixes.vetting import Trials, vetted, vetted_noise

__all__ = ["Trials", "from_shelf", "vetted", "vetted_noise", "with_filters"]
