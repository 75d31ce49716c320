"""The demo lesson: :mod:`place` says where it lies, :mod:`lesson` makes it anew."""
