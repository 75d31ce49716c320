"""A simulated golfer whose truth is known: stands in for the camera, the student and the lab."""
