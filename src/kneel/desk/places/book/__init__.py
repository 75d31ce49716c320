"""The Book on the desk: students, the trend of a number, stills on one scale, what was said."""
