"""Copies, purging for good, and a check of what rows say against the disk."""
