"""The type that ships with Kneel, for the desk and for what goes home."""
