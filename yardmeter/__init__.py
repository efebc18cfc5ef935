"""Yard Meter: current budget, regulators, grounds and filters of a drone's electrics."""

import os

# Networks are small: threads inside the linear algebra cost more than they bring. Must be set before it is loaded.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
