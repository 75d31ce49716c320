"""The Trainer: simulated swings to be judged by eye."""

from kneel.desk.places.trainer.view import TrainerPlace

__all__ = ["TrainerPlace"]
