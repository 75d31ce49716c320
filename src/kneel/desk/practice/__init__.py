"""The student of the open swing: what is known of them, the plan that runs, the cues that were tried."""

from kneel.desk.practice.practice import Practice

__all__ = ["Practice"]
