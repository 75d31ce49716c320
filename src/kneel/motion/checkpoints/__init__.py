"""Finding the nine checkpoints of a swing from the hands, the club, the ball and the arms."""

from kneel.motion.checkpoints.find import Checkpoint, find_checkpoints

__all__ = ["Checkpoint", "find_checkpoints"]
