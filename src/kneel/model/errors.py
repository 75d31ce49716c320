"""The family of errors a user may meet. Each message is one sentence for a person.

A message says what happened, what is safe, and what to do; the technical
cause is chained, never shown.
"""

from __future__ import annotations

from pathlib import Path


class KneelError(Exception):
    """Anything that went wrong because of what was given, not because of a bug."""


class UsageError(KneelError):
    """The command line or a setting asks for something that cannot be."""


class FootageError(KneelError):
    """A clip cannot be read."""


class PointsError(KneelError):
    """A points file cannot be used."""


class SwingFileError(KneelError):
    """A saved swing cannot be read or written."""


class StudentFileError(KneelError):
    """A student's record in a file cannot be read."""


class BookError(KneelError):
    """The Book cannot be read or written."""


class BookChangedError(BookError):
    """What was to be saved was changed at another desk since it was read: that stands."""


class BookGoneError(BookError):
    """What was to be saved was deleted meanwhile."""


class ParcelError(KneelError):
    """A lesson sent from elsewhere cannot be taken in."""


class KnowledgeError(KneelError):
    """A school or fault file beside the program is not valid."""


class _HeldUpError(SwingFileError):
    """A ``document`` cannot be opened before somebody has said what it lacks."""

    def __init__(self, sentence: str, document: Path) -> None:
        super().__init__(sentence)
        self.document = document


class SchoolGoneError(_HeldUpError):
    """The school a document is judged by is not known here: it waits for another to be named."""


class ClipGoneError(_HeldUpError):
    """The clip a document was made on is not where it was: it waits for that to be found."""
