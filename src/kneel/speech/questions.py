"""What is asked of how a clip was filmed, and what each answer says of the swing."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from kneel.model import POSES, Hand, Kind, Swing, View
from kneel.motion.clock import Slowed
from kneel.motion.viewed import Question

_ASKED = {
    Question.WHO: "Who is the golfer? Several people stand in the picture.",
    Question.VIEW: "Face-on or down the line? The feet do not tell.",
    Question.BEHIND: "Filmed from behind? The golfer’s back seems to face the camera.",
    Question.LEFT: "Left-handed, or a mirrored clip? The picture shows a left-hander.",
    Question.HAND: "Right- or left-handed? The picture does not tell.",
    Question.POSE: "Which position is held? It is judged by that position’s windows.",
    Question.MIRRORED: "Mirrored clip? It shows the other hand than the golfer’s.",
    Question.RATE: "Slowed down? The downswing does not last as long as one does.",
}


@dataclass(frozen=True)
class AnswerChoice:
    """One answer: its words, and the settings of the swing that it gives.

    ``found`` says that whoever was found is meant, ``pointed`` that this has to be pointed out on the
    picture, ``pose`` which position is held there.
    """

    words: str
    settings: dict[str, Any] = field(default_factory=dict)
    found: bool = False
    pointed: bool = False
    pose: str = ""


def asked(question: Question) -> str:
    """The question in one line; empty where nothing is asked.

    >>> asked(Question.BEHIND)
    'Filmed from behind? The golfer’s back seems to face the camera.'
    """
    return _ASKED.get(question, "")


def short(question: Question) -> str:
    """The same where there is little room.

    >>> short(Question.BEHIND), short(Question.NONE)
    ('Filmed from behind?', '')
    """
    first, mark, _ = asked(question).partition("?")
    return first + mark


def answers(question: Question, swing: Swing, slowed: Slowed | None = None) -> tuple[AnswerChoice, ...]:
    """What may be answered, the likeliest first; ``slowed`` is what the downswing says of the clip's rate.

    >>> from kneel.motion.clock import looks_slowed
    >>> [one.words for one in answers(Question.RATE, Swing(), looks_slowed(1.3, 30.0))]
    ['Filmed at 120 a second', 'No: a slow swing']
    """
    other = swing.hand.other
    every = {
        Question.WHO: (
            AnswerChoice("The one with the lines", found=True),
            AnswerChoice("Another: click on them", pointed=True),
        ),
        Question.VIEW: (
            AnswerChoice("Face-on", {"view": View.FACE_ON}),
            AnswerChoice("Down the line", {"view": View.DOWN_THE_LINE}),
            AnswerChoice("From behind", {"view": View.REAR}),
        ),
        Question.POSE: tuple(
            AnswerChoice(words, {"kind": Kind.HELD}, pose=pose)
            for pose, words in zip(POSES, ("Set-up", "Top", "Impact"), strict=True)
        ),
        Question.BEHIND: (
            AnswerChoice("From behind", {"view": View.REAR}),
            AnswerChoice("Face-on", {"view": View.FACE_ON}),
        ),
        Question.LEFT: (
            AnswerChoice("Left-handed", {"hand": Hand.LEFT, "mirrored": False}),
            AnswerChoice("Right-handed, mirrored", {"hand": Hand.RIGHT, "mirrored": True}),
        ),
        Question.HAND: (
            AnswerChoice("Right-handed", {"hand": Hand.RIGHT, "mirrored": False}),
            AnswerChoice("Left-handed", {"hand": Hand.LEFT, "mirrored": False}),
        ),
        Question.MIRRORED: (
            AnswerChoice("Mirrored", {"mirrored": True}),
            AnswerChoice(f"No: {other.value}-handed", {"hand": other, "mirrored": False}),
        ),
        Question.RATE: _rates(swing, slowed),
    }
    return every.get(question, ())


def _rates(swing: Swing, slowed: Slowed | None) -> tuple[AnswerChoice, ...]:
    def filmed(rate: float) -> AnswerChoice:
        return AnswerChoice(f"Filmed at {rate:.4g} a second", {"capture_rate": rate})

    if slowed is not None and not slowed.rates:
        said = () if swing.capture_rate is None else (filmed(swing.capture_rate),)
        return AnswerChoice("No: as stored", {"capture_rate": None}), *said
    likely = tuple(filmed(rate) for rate in (slowed.rates if slowed else ()))
    return *likely, AnswerChoice("No: a slow swing", {"capture_rate": swing.capture_rate})
