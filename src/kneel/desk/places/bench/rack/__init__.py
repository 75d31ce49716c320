"""The rack: the lesson's swings by student, and where more are dropped."""
