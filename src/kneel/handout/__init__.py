"""What goes home: a page, stills with what they argue, a slow clip."""
