"""What two pictures speak of: one number, by the findings of both that rest on it."""

from __future__ import annotations

from kneel.compare.difference import Difference
from kneel.compare.family import Compared
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.judge import Reading
from kneel.motion.quantity import Series


class Speaking:
    """Lets both swings show one number, and gives the Bench back what it spoke of."""

    def __init__(self, on_desk: OpenSwing, other: OpenSwing) -> None:
        self._open, self._other = on_desk, other
        self._before: tuple[str | None, bool] | None = None

    def begin(self) -> None:
        """Remember what the swing on the desk speaks of now."""
        self._before = self._open.selection.fault, self._open.selection.by_hand

    def begin_anew(self) -> None:
        """Another swing lies on the desk."""
        if self._before is not None:
            self.begin()

    def end(self) -> None:
        """What the Bench speaks of is its own."""
        selection = self._open.selection
        if self._before is not None and self._before[0] != selection.fault:
            selection.fault, selection.by_hand = self._before
            selection.chose.emit()
        self._before = None

    def first(self, found: Compared) -> Difference | None:
        """What differs most beyond its error; else what the picture speaks of, where both tell it."""
        rows, chosen = found.rows, self._open.selection.measure
        real = (row for row in rows if row.claimed)
        spoken = (row for row in rows if row.measure == chosen)
        return next(real, next(spoken, next(iter(rows), None)))

    def told(self, measure: str) -> bool:
        """Whether the swing on the desk tells a measure over its frames."""
        analysis = self._open.analysis
        return analysis is not None and isinstance(analysis.measure(measure), Series)

    def speak_of(self, one: Difference) -> None:
        """Let both pictures show a number, as far as a finding rests on it."""
        for swing in (self._other, self._open):
            fault = _resting_on(swing.numbers.reading, one)
            if fault is not None:
                here = swing.cursor.frame
                swing.selection.choose(fault)
                swing.cursor.go(here)

    def verdicts(self) -> str:
        """What comes first in each."""
        words = []
        for swing in (self._other, self._open):
            reading = swing.numbers.reading
            finding = reading.first if reading is not None and reading.findings else None
            told = finding and f"{finding.fault.title}: {finding.verdict.value}"
            words.append(told or tr("nothing at work"))
        return tr("Beside: %s. On the desk: %s.") % tuple(words)


def _resting_on(reading: Reading | None, one: Difference) -> str | None:
    """A finding that rests on a number, so that the picture shows it; None where there is none."""
    found = reading.findings if reading is not None else ()
    exact = (f.key for f in found if (f.measure, f.checkpoint) == (one.measure, one.at))
    near = (f.key for f in found if f.measure == one.measure)
    return next(exact, next(near, None))
