"""The shelf of references: swings that show how something is done, simulated or kept with permission.

:mod:`card` is what is said of one, :mod:`shelf` where they lie, :mod:`fitting` which one suits a swing.
"""
