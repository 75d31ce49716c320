"""What all parts of the desk share."""

from __future__ import annotations

from dataclasses import dataclass, field

from PyQt6.QtCore import QSettings

from kneel.desk.operations import Beside, Jobs
from kneel.desk.records import Books, Records
from kneel.desk.widgets.theme import Look


@dataclass(frozen=True)
class Context:
    """The look, the user's settings, the registry of long work, the processes beside the desk that
    do it, and the records of the Books.
    """

    look: Look
    settings: QSettings
    jobs: Jobs = field(default_factory=Jobs)
    beside: Beside = field(default_factory=Beside)
    records: Records = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "records", Records(Books(), self.jobs))
