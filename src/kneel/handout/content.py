"""What a page that goes home says: one thing, why, the drill, the days, care, and how sure it is."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from dataclasses import dataclass, replace

from kneel.book.repository.swings import Indexed
from kneel.compare.difference import ChangeWord
from kneel.compare.trend import Trend
from kneel.handout.stills import Still
from kneel.handout.weeks import DayCell, weeks_of
from kneel.judge import Finding
from kneel.judge.kinds import ONCE
from kneel.model import Flag, Hand, KnownLength, Plan, Rung, ScaleSource, Stature, View
from kneel.motion.quantity import Single
from kneel.motion.study import Study
from kneel.practice import Drill, sessions
from kneel.practice.dose import amount
from kneel.practice.drill import CARE
from kneel.practice.films import film_of
from kneel.practice.planning import edge_of
from kneel.practice.schedule import State
from kneel.speech import practice as say
from kneel.speech.home import plain
from kneel.speech.moments import BEGINS, moment_title, moment_words
from kneel.speech.plain import plain_sentence
from kneel.speech.words import capital, length_words, number, small, with_unit

VIEWS = {View.FACE_ON: "filmed from the front", View.DOWN_THE_LINE: "filmed along the target line"}
VIEWS[View.REAR] = "filmed from behind"

FILM_FROM = {View.FACE_ON: "from the front", View.DOWN_THE_LINE: "from behind, along the target line"}
RUNGS_HOME = {
    Rung.NO_BALL: "Without a ball",
    Rung.HALF: "Half swings",
    Rung.THREE_QUARTER: "Three-quarter swings",
}
RUNGS_HOME[Rung.FULL] = "Full swings"

FILMED = "How it is done stands in the film “%s”."

OUTLINED = "The outline is your own body with this one thing put right: something to aim for, no promise."

LAST = "impact"
SPARE = "top"
MOST_POINTS = 4


@dataclass(frozen=True)
class StillShown:
    """A still with its name and what it shows, in words; ``size`` is written at the distance itself."""

    still: Still
    title: str
    caption: str
    size: str = ""


@dataclass(frozen=True)
class Small:
    """A small picture of the number over lessons: its title, points as (day, value), and what is wanted."""

    title: str
    points: tuple[tuple[str, float], ...]
    low: float | None
    high: float | None
    unit: str


@dataclass(frozen=True)
class Content:
    """All words and pictures of a page; no word of the trade is left in them."""

    name: str
    day: str
    under: str
    aim: str
    said: tuple[str, ...]
    shown: tuple[StillShown, ...] = ()
    drill: str = ""
    steps: tuple[str, ...] = ()
    feel: str = ""
    dose: str = ""
    weeks: tuple[tuple[DayCell, ...], ...] = ()
    weeks_title: str = ""
    film: str = ""
    care: tuple[str, ...] = ()
    sure: str = ""
    small: Small | None = None
    note: str = ""
    setup: str = ""
    then: str = ""
    drill_key: str = ""
    filmed: str = ""
    """The film of the drill that goes with the page."""

    spoken: str = ""
    """The spoken review that goes with the page, and its file."""

    outlined: str = ""
    """What the outline on a picture is, where there is one."""

    @property
    def texts(self) -> list[str]:
        """Every sentence of it, for whoever checks the words."""
        captions = [part for one in self.shown for part in (one.title, one.caption)]
        days = [cell.words for week in self.weeks for cell in week]
        more = [self.small.title] if self.small else []
        fixed = [
            self.under,
            self.aim,
            self.setup,
            self.then,
            self.drill,
            self.feel,
            self.dose,
            self.film,
            self.sure,
            self.weeks_title,
            self.outlined,
            self.spoken,
            self.filmed,
        ]
        return [*fixed, self.weeks_title, *self.said, *captions, *self.steps, *days, *self.care, *more]


@dataclass(frozen=True)
class About:
    """Whose page it is: name, day, hand, and what has to be spared; ``note`` is the instructor's own line."""

    name: str
    day: datetime.date
    hand: Hand
    flags: tuple[Flag, ...] = ()
    academy: str = ""
    note: str = ""


def content_of(
    about: About,
    finding: Finding,
    study: Study,
    stills: Sequence[Still],
    *,
    plan: Plan | None = None,
    drill: Drill | None = None,
    warning: str = "",
    setup: Finding | None = None,
    then: Finding | None = None,
    trend: Trend[Indexed] | None = None,
    spoken: str = "",
    today: datetime.date | None = None,
) -> Content:
    """The page for one finding of a swing, with the plan that runs for it and its trend, if any.

    ``setup`` is what the set-up wants besides that one movement, ``then`` what comes once it holds.
    """
    today, hand = today or about.day, about.hand
    aim = plain(_aim(finding), hand)
    since = _since(trend, about.day, today)
    said = [plain(plain_sentence(finding, hand), hand), _wanted(finding), since]
    shown = tuple(_shown(still, finding, study, hand) for still in stills)
    club = study.setup
    view = VIEWS.get(club.view, "")
    under = " · ".join(part for part in (about.academy, view) if part)
    content = Content(
        about.name,
        f"{say.day_words(about.day)} {about.day.year}",
        under,
        aim,
        tuple(words for words in said if words),
        shown,
        care=tuple(plain(words, hand) for words in _care(drill, finding, warning)),
        sure=_sure(finding, study.setup.scale, trend),
        small=_small(trend, hand, today),
        note=about.note,
        setup=_before(setup, hand),
        then=_after(then, hand),
        spoken=spoken,
        outlined=OUTLINED if any(still.aimed for still in stills) else "",
    )
    return content if drill is None else _with_drill(content, drill, plan, about, today)


def film_title(drill: Drill) -> str:
    """What the film of a drill is called where it goes along with a page."""
    return f"Drill, {small(drill.title)}"


def _before(setup: Finding | None, hand: Hand) -> str:
    """The one line of the set-up."""
    return "" if setup is None else plain(f"Before you swing: {small(_aim(setup))}", hand)


def _after(then: Finding | None, hand: Hand) -> str:
    return "" if then is None else plain(f"Next, when this holds: {small(_aim(then))}", hand)


def _aim(finding: Finding) -> str:
    return finding.fault.aim or f"{finding.fault.good}."


def moments_of(finding: Finding) -> tuple[str, ...]:
    """Which checkpoints argue a finding: where it begins, where it is told, and the hit."""
    told = finding.checkpoint or ""
    middle = told if told not in ("address", LAST, ONCE, "") else SPARE
    return "address", middle, LAST


def _with_drill(
    content: Content, drill: Drill, plan: Plan | None, about: About, today: datetime.date
) -> Content:
    hand = about.hand
    content = replace(
        content,
        drill=plain(drill.title, hand),
        steps=tuple(plain(step, hand) for step in drill.steps),
        feel=plain(drill.feel, hand),
        drill_key=drill.key,
        filmed=FILMED % film_title(drill) if film_of(drill.key) is not None else "",
    )
    if plan is None:
        return content
    running = [one for one in sessions(plan, today) if one.state is not State.MISSED]
    ahead = [one for one in running if one.date >= today] or running
    first = amount(drill, ahead[0].rung, plan.minutes, about.flags) if ahead else None
    days = say.count_words(len(plan.weekdays))
    dose = f"{capital(days)} a week, {plan.minutes} minutes."
    later = next((one for one in ahead if ahead and one.rung is not ahead[0].rung), None)
    if first is not None:
        dose = f"{say.dose_sentence(first)} {dose}"
    if later is not None and first is not None:
        dose += f" {RUNGS_HOME[later.rung]} from {say.day_words(later.date)}, if it holds."
    weeks = weeks_of(plan, today)
    return replace(
        content,
        dose=plain(dose, hand),
        weeks=weeks,
        weeks_title="Your week" if len(weeks) == 1 else f"Your {say.NUMBERS[len(weeks)]} weeks",
        film=plain(f"{_film(plan)} {_done_when(plan)}", hand),
    )


def _film(plan: Plan) -> str:
    """When and what to film, as one tells somebody who holds the telephone."""
    side = FILM_FROM.get(plan.view, "")
    kind = "" if plan.kind.value == "full" else f"{plan.kind.value} "
    day = say.day_words(plan.check_in)
    return f"On {day} film three {kind}swings with the {plan.club.value} {side}, from the same place as now."


def _done_when(plan: Plan) -> str:
    aim = plan.aim
    words = say.limit_words(aim)
    if aim.start is not None and aim.start * aim.limit > 0 and abs(aim.start) > abs(aim.limit):
        words = f"no more than {with_unit(number(abs(aim.limit), aim.unit, signed=False), aim.unit)}"
    return f"Done when it is {words}, by more than the camera’s own error."


def _care(drill: Drill | None, finding: Finding, warning: str) -> tuple[str, ...]:
    if drill is None:
        return tuple(dict.fromkeys((finding.fault.care, CARE)))
    return say.cautions(drill, finding.fault, warning)


def _wanted(finding: Finding) -> str:
    """Where the number should come, as one says it to somebody who knows no signs."""
    decided = finding.decided
    if decided is None or decided.limits is None or decided.told is None or not finding.verdict.at_work:
        return ""
    _, limit = edge_of(decided.limits, decided.check.side, decided.told)
    value, unit = decided.told.value, decided.told.unit
    size = with_unit(number(abs(limit), unit, signed=False), unit)
    if value * limit > 0 and abs(value) > abs(limit):
        return f"Wanted is no more than {size}."
    if value * limit > 0:
        return f"Wanted is at least {size}."
    return f"Wanted is {size} the other way." if abs(limit) > 1e-9 else "Wanted is none of it."


def _since(trend: Trend[Indexed] | None, day: datetime.date, today: datetime.date) -> str:
    """What became of the number since the first lesson, in words that claim no more than is known.

    Only where this lesson is what the line of the trend ends with: of another club or camera it says nothing.
    """
    first = trend.reference if trend is not None else None
    if trend is None or trend.change is None or first is None or trend.line[-1].day != day:
        return ""
    then = length_words(abs(first.value), None, trend.unit, signed=False)
    when = say.brief_day(first.day, today)
    match trend.change.verdict:
        case ChangeWord.CHANGED:
            way = {True: " for the better", False: " for the worse", None: ""}[trend.better]
            return f"On {when} it was {then}, and that is a real change{way}."
        case ChangeWord.UNCHANGED:
            return f"On {when} it was {then}: it has not changed."
    return f"On {when} it was {then}; that is too near to be told apart yet."


def _shown(still: Still, finding: Finding, study: Study, hand: Hand) -> StillShown:
    title, words = moment_title(still.moment, hand), moment_words(finding, study, still.moment, hand)
    if not words or words == BEGINS:
        return StillShown(still, title, words)
    told = study.at(finding.measure or "", still.moment)
    assert isinstance(told, Single)
    return StillShown(still, title, words, length_words(abs(told.value), None, told.unit, signed=False))


def _sure(finding: Finding, scale: ScaleSource, trend: Trend[Indexed] | None) -> str:
    if finding.sigma is None or finding.unit is None:
        return ""
    source = "the width of your stance"
    if isinstance(scale, Stature):
        source = "your height"
    elif isinstance(scale, KnownLength):
        source = f"a {scale.what} of known length"
    error = with_unit(number(finding.sigma, finding.unit, signed=False), finding.unit)
    words = f"How sure: ± {error}, from one camera and {source}."
    change = trend.change if trend is not None else None
    if change is not None and change.unit == finding.unit:
        least = with_unit(number(change.detectable_alone, change.unit, signed=False), change.unit)
        words += f" Two lessons may read up to {least} apart though nothing has changed."
    return words


def _small(trend: Trend[Indexed] | None, hand: Hand, today: datetime.date) -> Small | None:
    if trend is None or len(trend.line) < 2:
        return None
    points = trend.line[-MOST_POINTS:]
    title = plain(say.measure_words(trend.measure, trend.at), hand)
    limits = trend.limits
    return Small(
        f"{capital(title)}, {with_unit('', trend.unit).strip()}",
        tuple((say.brief_day(point.day, today), point.value) for point in points),
        limits.lo if limits else None,
        limits.hi if limits else None,
        trend.unit,
    )
