"""The Schools: windows as corridors over the swing, shaped by hand, and where two schools disagree."""
