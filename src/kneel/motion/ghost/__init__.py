"""The corrected ghost: this golfer's own figure with one number moved into its window."""

from kneel.motion.ghost.correct import AimAt, Ghost, NoGhost, Why, correct

__all__ = ["AimAt", "Ghost", "NoGhost", "Why", "correct"]
