"""What programs read: the JSON of the command line, typed, versioned and with a schema."""
