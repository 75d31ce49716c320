"""The database itself: opened by URL, its tables, and how older ones come to the present schema."""
