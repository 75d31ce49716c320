"""The numbers: tracks, scale, checkpoints and measures, each with its error."""
