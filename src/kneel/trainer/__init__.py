"""The eye trained: simulated swings to be judged by eye, and what the answers say of the eye."""
