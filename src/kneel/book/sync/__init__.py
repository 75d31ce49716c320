"""Several desks on one Book: one three-way rule, what was lost to another desk, what waits to be written."""
