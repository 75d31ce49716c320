"""Where the instructor is: each place with its view and its actions. None knows of another."""
