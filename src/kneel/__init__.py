"""Kneel: frame-by-frame review of golf swings, with numbers that know their error."""

import os

# What is solved here is small, and two processes are at work: threads of the linear algebra would only stand
# in each other's way. It is asked for once, when NumPy is loaded.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
