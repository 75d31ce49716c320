"""Records in and out: students, lessons, swings, each saved over the revision that was read."""
