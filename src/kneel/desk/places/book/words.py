"""What is said of a trend: what number it is, whether it changed, what lies between two lessons."""

from __future__ import annotations

import datetime
from dataclasses import dataclass

from kneel.compare.difference import ChangeWord
from kneel.compare.trend import Point, Trend
from kneel.desk.swing.titles import VIEW_TITLES
from kneel.desk.widgets.language import tr
from kneel.motion.measures import REGISTRY
from kneel.speech.change import since_words
from kneel.speech.practice import brief_day, measure_words
from kneel.speech.words import capital, length_words, number, with_unit


@dataclass(frozen=True)
class TrendWords:
    """The words of a trend, or of none, as of a day."""

    trend: Trend | None
    today: datetime.date

    def all(self) -> str:
        """Everything, for who cannot see it."""
        trend = self.trend
        if trend is None:
            return ""
        said = [
            f"{brief_day(p.day, self.today)} {length_words(p.value, p.sigma, trend.unit)}"
            + (f" ({', '.join(p.other)})" if p.other else "")
            for p in trend.points
        ]
        return f"{self.heading()}: {'; '.join(said)}. {self.claim()[0]}"

    def heading(self) -> str:
        """What number it is."""
        return "" if self.trend is None else capital(measure_words(self.trend.measure, self.trend.at))

    def beside(self) -> tuple[str, ...]:
        """Its unit, its sign, and what was filmed; then ever shorter."""
        trend = self.trend
        if trend is None:
            return ()
        entry = REGISTRY[trend.measure]
        last = trend.line[-1].swings[-1]
        view = tr(VIEW_TITLES[last.view.value]).lower()
        unit, filmed = with_unit("", trend.unit), f"{view}, {last.club.value}"
        sign = f"{unit}, {tr('+ is')} {entry.positive}"
        return f"{sign} · {filmed}", f"{unit} · {filmed}", sign, unit

    def claim(self) -> tuple[str, str]:
        """Whether it changed, for the better or not, and the colour for that."""
        trend = self.trend
        first = trend.reference if trend is not None else None
        if trend is None or trend.change is None or first is None:
            return "", "secondary"
        said = since_words(trend.change, brief_day(first.day, self.today))
        if trend.change.verdict is not ChangeWord.CHANGED or trend.better is None:
            return said, "secondary"
        way = tr("better") if trend.better else tr("worse")
        return f"{said}, {way}", "clear" if trend.better else "fault"

    def apart(self, point: Point) -> str:
        """What lies between the reference and a point; of the reference how another is chosen."""
        first = self.trend.reference if self.trend else None
        found = next((one for p, one in self.trend.band if p is point), None) if self.trend else None
        if first is None or found is None:
            return tr("Shift and click: hold the others against it") if not point.hollow else ""
        return since_words(found, brief_day(first.day, self.today))


def counted(point: Point, unit: str) -> str:
    """How many swings it is the mean of, and how far they lie apart."""
    if point.count == 1:
        return ""
    spread = "" if point.spread is None else tr(", spread %s") % number(point.spread, unit, signed=False)
    return tr("%d swings%s") % (point.count, spread)
