"""What all parts of the desk share."""

from __future__ import annotations

from dataclasses import dataclass, field

from PyQt6.QtCore import QSettings

from kneel.desk.aside import Aside
from kneel.desk.books import Books
from kneel.desk.jobs import Jobs
from kneel.desk.theme import Look


@dataclass(frozen=True)
class Context:
    """The look, the user's settings, the registry of long work, the process beside the desk that does it, and
    the Books.
    """

    look: Look
    settings: QSettings
    jobs: Jobs = field(default_factory=Jobs)
    aside: Aside = field(default_factory=Aside)
    books: Books = field(default_factory=Books)
