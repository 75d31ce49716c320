"""The window: what opens, closes and switches, its actions, help, and what happens when something breaks."""
