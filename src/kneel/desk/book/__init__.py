"""The Book on the desk: students, the trend of a number, stills on one scale, what was said."""

from kneel.desk.book.filing import Filing
from kneel.desk.book.place import BookPlace
from kneel.desk.book.telling import Telling

__all__ = ["BookPlace", "Filing", "Telling"]
