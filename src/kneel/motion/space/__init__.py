"""One swing seen by two cameras: one clock, one body in space.

``clock`` finds when the second camera's clip begins on the first one's clock, ``body`` where the joints are,
``quantities`` what of it is told.
"""
