"""What a review shows at any time, and its edits: pure functions of a review.

A time is of the review as it is shown, unless it is said to be of a take.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

from msgspec.structs import replace

from kneel.model.review import Piece, Review, Seen, SpokenTake

LEAST_S = 0.05
"""No piece is shorter."""

STANDS_S = 0.7
"""A checkpoint that is looked at for so long begins a chapter."""

CLICK_S = 0.45
"""So long a click is to be seen."""


@dataclass(frozen=True)
class Chapter:
    """Where something is looked at: from when, which swing, and the checkpoint."""

    start_s: float
    swing: int
    at: str


class TakeCourse:
    """What a take shows at any of its times; the states at the changes are reckoned once."""

    def __init__(self, take: SpokenTake) -> None:
        self.times: list[float] = []
        self.states: list[Seen] = []
        self.clicks: list[float] = []
        seen = Seen()
        for change in take.changes:
            now = seen.then(change)
            if now.down and not seen.down:
                self.clicks.append(change.t)
            seen = now
            self.times.append(change.t)
            self.states.append(seen)

    def at(self, t: float) -> Seen:
        """The state at a time; before the first change that of the first."""
        if not self.states:
            return Seen()
        return self.states[max(bisect_right(self.times, t + 1e-9) - 1, 0)]

    def click_before(self, t: float) -> float | None:
        """How long ago the hand clicked last, s."""
        k = bisect_right(self.clicks, t + 1e-9) - 1
        return t - self.clicks[k] if k >= 0 else None


@dataclass(frozen=True)
class Course:
    """A review as it is shown, from its beginning to its end."""

    review: Review

    @cached_property
    def takes(self) -> list[TakeCourse]:
        return [TakeCourse(take) for take in self.review.takes]

    def place(self, t: float) -> tuple[int, float]:
        """Which take a time lies in, and when there."""
        left = t
        for piece in self.review.pieces:
            if left < piece.seconds:
                return piece.take, piece.start_s + max(left, 0.0)
            left -= piece.seconds
        last = self.review.pieces[-1]
        return last.take, last.end_s

    def at(self, t: float) -> tuple[Seen, float | None]:
        """What is on show at a time, and how long ago the last click was, if it is still to be seen."""
        take, then = self.place(t)
        course = self.takes[take]
        ago = course.click_before(then)
        return course.at(then), ago if ago is not None and ago <= CLICK_S else None

    def runs(self) -> Iterator[tuple[float, float, Seen]]:
        """Start, end and state of every stretch in which nothing changes."""
        shown = 0.0
        for piece in self.review.pieces:
            course = self.takes[piece.take]
            inside = [t for t in course.times if piece.start_s < t < piece.end_s]
            edges = [piece.start_s, *inside, piece.end_s]
            for a, b in pairwise(edges):
                yield shown + a - piece.start_s, shown + b - piece.start_s, course.at(a)
            shown += piece.seconds


def chapters(review: Review) -> list[Chapter]:
    """A chapter for each checkpoint that is looked at for a while, where it begins; looking at the same one
    again at once begins none.

    >>> from kneel.model.review import Change
    >>> take = SpokenTake(9.0, (Change(0.0, at="address"), Change(4.0, at=""), Change(4.2, at="top")))
    >>> [(one.at, one.start_s) for one in chapters(Review((), (take,), (Piece(0, 0.0, 9.0),)))]
    [('address', 0.0), ('top', 4.2)]
    """
    found: list[Chapter] = []
    begun: tuple[float, float, int, str] | None = None

    def close() -> None:
        if begun is None or not begun[3] or begun[1] - begun[0] < STANDS_S:
            return
        if not found or (found[-1].swing, found[-1].at) != begun[2:]:
            found.append(Chapter(begun[0], begun[2], begun[3]))

    for start, end, seen in Course(review).runs():
        if begun is not None and (begun[2], begun[3]) == (seen.swing, seen.at):
            begun = (begun[0], end, begun[2], begun[3])
        else:
            close()
            begun = (start, end, seen.swing, seen.at)
    close()
    return found


def cut(review: Review, start_s: float, end_s: float) -> Review:
    """The review without a stretch. Raises ``ValueError`` where nothing would be left.

    >>> whole = Review((), (SpokenTake(9.0, ()),), (Piece(0, 0.0, 9.0),))
    >>> [(p.start_s, p.end_s) for p in cut(whole, 2.0, 5.0).pieces]
    [(0.0, 2.0), (5.0, 9.0)]
    """
    left = _joined([*_between(review.pieces, 0.0, start_s), *_between(review.pieces, end_s, float("inf"))])
    if not left:
        raise ValueError("nothing of the review would be left")
    return replace(review, pieces=left)


def trim(review: Review, start_s: float, end_s: float) -> Review:
    """The review from one time to another alone. Raises ``ValueError`` where that is nothing.

    >>> whole = Review((), (SpokenTake(9.0, ()),), (Piece(0, 0.0, 9.0),))
    >>> trim(whole, 2.0, 5.0).seconds
    3.0
    """
    left = _joined(_between(review.pieces, start_s, end_s))
    if not left:
        raise ValueError("nothing of the review would be left")
    return replace(review, pieces=left)


def said_anew(review: Review, start_s: float, end_s: float, take: SpokenTake) -> Review:
    """The review with a stretch said anew: another take stands in its place, which may be of another length.

    >>> whole = Review((), (SpokenTake(9.0, ()),), (Piece(0, 0.0, 9.0),))
    >>> [(p.take, p.seconds) for p in said_anew(whole, 2.0, 5.0, SpokenTake(4.0, ())).pieces]
    [(0, 2.0), (1, 4.0), (0, 4.0)]
    """
    before = _between(review.pieces, 0.0, start_s)
    after = _between(review.pieces, end_s, float("inf"))
    fresh = [Piece(len(review.takes), 0.0, take.seconds)] if take.seconds > 0 else []
    return replace(review, takes=(*review.takes, take), pieces=_joined([*before, *fresh, *after]))


def _between(pieces: Sequence[Piece], start_s: float, end_s: float) -> list[Piece]:
    """The pieces of a stretch of what is shown."""
    found, shown = [], 0.0
    for piece in pieces:
        a = piece.start_s + max(start_s - shown, 0.0)
        b = piece.start_s + min(end_s - shown, piece.seconds)
        if b - a >= LEAST_S:
            found.append(Piece(piece.take, a, b))
        shown += piece.seconds
    return found


def _joined(pieces: Sequence[Piece]) -> tuple[Piece, ...]:
    """Pieces that go on where the one before ended are one."""
    found: list[Piece] = []
    for piece in pieces:
        if found and found[-1].take == piece.take and abs(found[-1].end_s - piece.start_s) < 1e-9:
            found[-1] = Piece(piece.take, found[-1].start_s, piece.end_s)
        else:
            found.append(piece)
    return tuple(found)
