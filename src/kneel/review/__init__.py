"""Spoken reviews: recorded as what happens with a voice beside it, edited as pieces, kept as open files."""
