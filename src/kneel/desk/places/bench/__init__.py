"""The Bench: one swing, its picture, its ribbon and its reading."""
