"""Sentences from keys and numbers: what reading, command line and hand-out say; the judge says nothing."""
