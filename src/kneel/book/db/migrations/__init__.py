"""How a Book of an older schema becomes one of the next; one module a step."""
