"""The demo lessons: :mod:`place` says where they lie, :mod:`lesson` makes them anew."""
