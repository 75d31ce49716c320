"""The Trainer: simulated swings to be judged by eye."""
