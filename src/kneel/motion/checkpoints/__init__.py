"""Finding the nine checkpoints of a swing from the hands, the club, the ball and the arms."""

from kneel.motion.checkpoints.find import (
    HELD,
    Checkpoint,
    find_checkpoints,
    shown_frame,
    start_of,
)
from kneel.motion.checkpoints.moment import Moment
from kneel.motion.checkpoints.phases import NO_SWING

__all__ = [
    "HELD",
    "NO_SWING",
    "Checkpoint",
    "Moment",
    "find_checkpoints",
    "shown_frame",
    "start_of",
]
