"""The one way to what a clip shows: seen, followed, heard; kept by content; one for desk and command line."""

from kneel.evidence.gather import Evidence, analysed, gather, known_evidence, supposed
from kneel.evidence.marks import follow_marks, scale_of, wanted_legs
from kneel.evidence.seen import look_at
from kneel.evidence.shelf import METHOD, Shelf, sidecar
from kneel.evidence.stretch import Stretch
from kneel.evidence.strikes import hear

__all__ = [
    "METHOD",
    "Evidence",
    "Shelf",
    "Stretch",
    "analysed",
    "follow_marks",
    "gather",
    "hear",
    "known_evidence",
    "look_at",
    "scale_of",
    "sidecar",
    "supposed",
    "wanted_legs",
]
