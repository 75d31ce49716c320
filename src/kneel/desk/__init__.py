"""Everything Qt: the window and its places. No arithmetic on points or times beyond pixels on the screen."""
