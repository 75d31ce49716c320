"""The demo lesson: where it lies, and how it is made anew."""

from kneel.demo.lesson import FOLDER, build, demo_lesson, students

__all__ = ["FOLDER", "build", "demo_lesson", "students"]
