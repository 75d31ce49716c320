"""Work beside the desk in a process of its own: what loops in Python would hold up the window as a thread."""

from kneel.desk.aside.client import Aside

__all__ = ["Aside"]
