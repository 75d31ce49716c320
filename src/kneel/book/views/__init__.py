"""What a page shows of a student, read at one moment."""
