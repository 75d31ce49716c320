"""The stage: a picture and its layers, and what hands do on it. Nothing here knows of the Bench."""
