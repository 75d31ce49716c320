"""From a swing and what the Book knows of its golfer to a page, or to a slow clip."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path

from kneel.book import Book
from kneel.book.index.indexing import renew
from kneel.book.index.versions import program_version
from kneel.book.repository import students, swings
from kneel.book.repository.search_text import golfer_name
from kneel.book.repository.swings import Indexed
from kneel.compare.trend import Trend, trend_of
from kneel.evidence.kept import KeptSwing
from kneel.footage import Clip
from kneel.handout.clip import stops_of, write_slow
from kneel.handout.content import About, Content, content_of, moments_of
from kneel.handout.stills import Still, stills_of
from kneel.judge import Finding, Reading, Verdict, in_use
from kneel.judge.aiming import ghost_of
from kneel.judge.weighing import rank
from kneel.model import Plan, Student, Swing, UsageError
from kneel.motion.ghost import Ghost
from kneel.motion.study import Study
from kneel.practice import Wish, drills_in_use, propose
from kneel.practice.choice import DrillChoice
from kneel.practice.proposal import Proposal
from kneel.review.beside import reviews_beside
from kneel.speech.practice import warning_words
from kneel.speech.questions import short


@dataclass(frozen=True)
class Home:
    """A swing whose page goes home. ``clip`` is None where there are no pictures, only points."""

    swing: Swing
    study: Study
    reading: Reading
    clip: Path | None
    day: datetime.date
    student: Student = field(default_factory=Student)
    trend: Trend[Indexed] | None = None

    @property
    def name(self) -> str:
        return golfer_name(self.swing.golfer) or self.student.name or "Your swing"


SET_UP = "set-up"

ANSWER_FIRST = (
    "That has to be answered before anything goes home: on the Bench, or by --view, --handed and --mirrored."
)


def finding_for(home: Home, fault: str = "") -> Finding:
    """What the page is about: the fault asked for, the plan's, what to work on first, else what may be one.

    Raises ``UsageError`` where nothing is seen.
    """
    reading, plan = home.reading, home.student.plan
    if reading.question and not fault:
        # A page that tells left for right would be carried home.
        raise UsageError(f"{short(reading.question)} {ANSWER_FIRST}")
    wanted = fault or (plan.fault if plan is not None else "")
    first = next(iter(reading.priority), "") or next((f.key for f, _ in reading.chain), "")
    for key in (wanted, first):
        if key:
            try:
                finding = reading.of(key)
            except KeyError:
                raise UsageError(f"There is no fault “{key}”.") from None
            if finding.decided is not None or key == fault:
                return finding
    raise UsageError(
        "Nothing in this swing is sure enough to send home; --fault NAME makes a page about one all the same."
    )


def pictured(home: Home, kept: KeptSwing, fault: str = "") -> Home:
    """A swing whose page goes home with the pictures of the one of its two cameras that shows what it is
    about.
    """
    try:
        about = finding_for(home, fault)
    except UsageError:
        return home
    seen = kept.showing(about.measure)
    if seen is kept:
        return home
    swing = seen.swing.given(golfer=home.swing.golfer, guessed=seen.swing.guessed)
    return replace(home, swing=swing, study=seen.study, clip=seen.stretch.path)


def make_content(
    home: Home,
    *,
    fault: str = "",
    academy: str = "",
    note: str = "",
    today: datetime.date | None = None,
) -> Content:
    """The page of a swing. Raises ``UsageError`` where there is nothing to say, ``FootageError``."""
    finding = finding_for(home, fault)
    today = today or home.day
    plan = _plan(home, finding)
    proposal = _proposal(home, finding)
    choice = _choice(plan, proposal)
    drills = drills_in_use().all
    drill = drills.get(plan.drill) if plan is not None else choice.drill if choice is not None else None
    about = About(home.name, home.day, home.swing.hand, home.student.flags, academy, note)
    stills: tuple[Still, ...] = ()
    if home.clip is not None:
        with Clip(home.clip) as clip:
            start = home.swing.take.start
            moments, measure = moments_of(finding), finding.measure or ""
            stills = stills_of(home.study, clip, start, measure, moments, _ghost(home, finding))
    return content_of(
        about,
        finding,
        home.study,
        stills,
        plan=plan,
        drill=drill,
        warning=warning_words(choice) if choice is not None else "",
        setup=_setup(home.reading, finding),
        then=_then(home.reading, plan, proposal),
        trend=_trend(home, finding),
        spoken=_spoken(home),
        today=today,
    )


def make_clip(
    home: Home,
    path: Path,
    *,
    fault: str = "",
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> None:
    """The slow clip of a swing. Raises ``UsageError`` without pictures or checkpoints, ``FootageError``."""
    if home.clip is None:
        raise UsageError("A slow clip needs the film itself; points have no pictures.")
    finding = finding_for(home, fault)
    stops = stops_of(finding, home.study, moments_of(finding), home.swing.hand)
    with Clip(home.clip) as clip:
        start = home.swing.take.start
        write_slow(
            path, clip, home.study, start, finding, stops, home.swing.hand, progress=progress, stopped=stopped
        )


def known_of(book: Book, home: Home) -> Home:
    """The same with what the Book knows of its golfer: plan, flags, and the trend of what is worked on."""
    name = golfer_name(home.swing.golfer)
    if not name:
        return home
    with book.reading() as db:
        student, revision = students.named(db, name)
    if revision == 0:
        return home
    # A trend shows numbers of one version.
    renew(book, student.id)
    with book.reading() as db:
        home = replace(home, student=student)
        try:
            finding = finding_for(home)
        except UsageError:
            return home
        measure, at = finding.measure, finding.checkpoint
        if measure is None or at is None:
            return home
        rows = swings.told_of(db, student.id, measure, at)
        others = len(swings.measures_told(db, student.id)) - 1
    trend = trend_of(rows, measure, at, student, in_use(), program_version(), others=others)
    return replace(home, trend=trend)


def _spoken(home: Home) -> str:
    """The review that goes with the page: the last one of this golfer that shows this clip and has a film."""
    if home.clip is None:
        return ""
    for one in reviews_beside(home.clip, home.swing.golfer):
        shows = one.review is not None and any(Path(s.clip.path) == home.clip for s in one.review.swings)
        if shows and one.review is not None and (film := one.film) is not None:
            seconds = round(one.review.seconds)
            return f"Spoken review: {seconds // 60}:{seconds % 60:02d} minutes, in the file “{film.name}”."
    return ""


def _ghost(home: Home, finding: Finding) -> Ghost | None:
    """The golfer's own body with the number put right, where something is wrong and one picture shows it."""
    if finding.measure is None or not finding.verdict.at_work:
        return None
    found = ghost_of(home.study, home.reading.school, finding.measure, home.swing.club, finding)
    return found if isinstance(found, Ghost) else None


def _trend(home: Home, finding: Finding) -> Trend[Indexed] | None:
    """The trend of the very number the page is about, at its checkpoint."""
    trend = home.trend
    if trend is None or (trend.measure, trend.at) != (finding.measure, finding.checkpoint):
        return None
    return trend


def _plan(home: Home, finding: Finding) -> Plan | None:
    plan = home.student.plan
    return plan if plan is not None and plan.fault == finding.key else None


def _setup(reading: Reading, finding: Finding) -> Finding | None:
    """What is surely at fault in the set-up, where the page is about a movement: both may go home."""
    if finding.fault.phase == SET_UP:
        return None
    left = [f for f in reading.found(Verdict.FAULT) if f.fault.phase == SET_UP]
    return max(left, key=rank, default=None)


def _then(reading: Reading, plan: Plan | None, proposal: Proposal | None) -> Finding | None:
    """What is worked on once the first thing holds."""
    queued = plan.queued if plan is not None else proposal.queued if proposal is not None else ()
    known = {finding.key: finding for finding in reading.findings}
    about = plan.fault if plan is not None else proposal.finding.key if proposal is not None else ""
    return next((known[one.fault] for one in queued if one.fault in known and one.fault != about), None)


def _proposal(home: Home, finding: Finding) -> Proposal | None:
    """What is proposed for a finding; None where nothing is at work."""
    if finding.verdict is Verdict.CLEAR:
        return None
    return propose(home.reading, Wish.of(home.student, home.swing.club), drills_in_use(), fault=finding.key)


def _choice(plan: Plan | None, proposal: Proposal | None) -> DrillChoice | None:
    """The drill for a finding, as the plan has it or as it fits this student best."""
    if proposal is None:
        return None
    if plan is not None:
        return next((one for one in proposal.drills if one.drill.key == plan.drill), proposal.chosen)
    return proposal.chosen
