"""The ribbon: measures over real time, which is the scrubber too."""
