"""Kneel: frame-by-frame review of golf swings, with numbers that know their error."""

import os

# What is solved and followed here is small, and two processes are at work: threads of the linear algebra and
# of what looks at pictures would only stand in each other's way (following the marks of a clip took as long
# with two threads as with one, and kept both cores busy). It is asked for when the libraries are loaded.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
os.environ.setdefault("OPENCV_FOR_THREADS_NUM", "1")

__version__ = "0.1.0"
