"""Lessons out as folders and in from elsewhere, looked at as hostile before a byte is kept."""
