"""The Book on the desk: students, the trend of a number, stills on one scale, what was said."""

from kneel.desk.places.book.filing import Filing
from kneel.desk.places.book.telling import Telling
from kneel.desk.places.book.view import BookPlace

__all__ = ["BookPlace", "Filing", "Telling"]
