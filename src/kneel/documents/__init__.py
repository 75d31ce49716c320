"""Files in and out: points in CSV, swing documents in JSON."""
