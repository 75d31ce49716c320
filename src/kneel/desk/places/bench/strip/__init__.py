"""The strip: what the swing is taken for, each token with its doubt and how it was come by."""
