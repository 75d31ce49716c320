"""The Pair: two swings in step, and what differs between them."""
