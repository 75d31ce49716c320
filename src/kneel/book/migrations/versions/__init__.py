"""The steps."""
