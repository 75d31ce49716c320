"""Filing a swing: from its document and what is kept of its clip to the rows of the Book.

The only way by which numbers come into the index; the document stays the truth of the swing.
"""

from __future__ import annotations

import datetime
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from msgspec.structs import replace
from sqlalchemy import Connection

from kneel.book.db.opening import Book
from kneel.book.index.versions import versions
from kneel.book.index.worked_on import seen_of, settle_root
from kneel.book.repository import lessons, students, swings
from kneel.book.repository.records import Facts
from kneel.book.repository.search_text import golfer_name
from kneel.book.repository.swings import Indexed, IndexedNumber
from kneel.compare.family import asked_by
from kneel.compare.lesson import Filmed
from kneel.compare.trend import each_once
from kneel.compare.views import judge_views
from kneel.documents.swing_file import disk_stamp
from kneel.evidence.kept import KeptSwing, kept_swing, whole_swing
from kneel.judge import Knowledge, Reading, at_hand
from kneel.judge.numbers import OfSwing, body_size
from kneel.model import Hand, KneelError, Stature, Student
from kneel.model import Lesson as OfDay
from kneel.model.take import demand_day
from kneel.motion.quantity import Single
from kneel.motion.scale import Scale

HIPS = ("left_hip", "right_hip")


@dataclass(frozen=True)
class Filed:
    """A swing that is in the Book: whose, of which lesson."""

    student: str
    lesson: str


@dataclass(frozen=True)
class _Read:
    """A document as it was read and judged."""

    stamp: str
    kept: KeptSwing
    filmed: Filmed


_known: dict[Path, _Read] = {}
"""Swings read before in this process, so that a lesson of twenty is not read twenty times."""

MOST_KNOWN = 64


def day_of(clip: Path) -> datetime.date:
    """On which day a clip was filmed: its folder's name where that is a date, else when it was written.

    >>> day_of(Path("/lessons/2026-11-03/maren.mp4")).isoformat()
    '2026-11-03'
    """
    for folder in (clip.parent.name, clip.parent.parent.name):
        try:
            day = datetime.date.fromisoformat(folder[:10])
            demand_day(day)
        except ValueError:
            continue
        return day
    return datetime.date.fromtimestamp(clip.stat().st_mtime)


def file_swing(book: Book, document: Path) -> Filed | None:
    """Put a document's swing into the Book, under its golfer and day; None where nobody is named, or where
    its joints were neither looked for nor marked yet, or not all of it was followed.

    Raises ``BookError``, and ``SwingFileError`` or ``FootageError`` where document or clip cannot be read.
    """
    knowledge, _ = at_hand()
    one = _read(document, knowledge)
    name = golfer_name(one.kept.swing.golfer) if one is not None else ""
    if one is None or not name:
        return None
    swing = one.kept.swing
    day = day_of(one.kept.stretch.path)
    with book.writing() as db:
        if swings.hidden(db, document):
            # What was deleted does not come back by a swing that happens to be open.
            return None
        was = swings.by_document(db, document)
        student, revision = students.named(db, name)
        if revision == 0 and students.deleted(db, name):
            # Who was deleted does not come back by a swing that happens to be open.
            return None
        if revision == 0:
            student, revision = students.save(db, _begun(student, one.kept), 0)
        lesson, at = lessons.on_day(db, student.id, day)
        words = {
            "complaint": lesson.complaint or swing.complaint,
            "flight": lesson.flight or swing.flight,
        }
        if at == 0 or any(getattr(lesson, name) != said for name, said in words.items()):
            lesson, at = lessons.save(db, replace(lesson, **words), at)
        _put(db, one, knowledge, student, lesson, document)
        if was is not None and was.lesson != lesson.id:
            lessons.drop_if_empty(db, was.lesson)
    _settle(book, one, knowledge, student, lesson.id, document)
    return Filed(student.id, lesson.id)


def file_document(book: Book, document: Path, student: str, lesson: str) -> bool:
    """Put a document's swing into a lesson, whoever its golfer and whatever its day; False where its joints
    were neither looked for nor marked yet. Raises as :func:`file_swing` does.
    """
    knowledge, _ = at_hand()
    one = _read(document, knowledge)
    if one is None:
        return False
    with book.writing() as db:
        person, _ = students.load(db, student)
        known, _ = lessons.load(db, lesson)
        _put(db, one, knowledge, person, known, document)
    _settle(book, one, knowledge, person, lesson, document)
    return True


def _put(
    db: Connection, one: _Read, knowledge: Knowledge, student: Student, lesson: OfDay, document: Path
) -> None:
    swings.put(db, lesson.id, _indexed(one, knowledge, student, document))
    lessons.renew_words(db, lesson)


def _settle(
    book: Book, one: _Read, knowledge: Knowledge, student: Student, lesson: str, document: Path
) -> None:
    """Read the lesson's other swings too, and say what it works on."""
    with book.reading() as db:
        rows = swings.of_lesson(db, lesson)
    mine = next((row for row in rows if row.document == document), None)
    # A second document of the same swing is no second swing.
    ordered = [row for row in rows if row is not mine] + ([mine] if mine is not None else [])
    others = [row.document for row in each_once(ordered) if row is not mine]
    read = [one, *_others(others, knowledge)]
    with book.writing() as db:
        settle_root(db, lesson, student, [r.filmed for r in read], knowledge)


def renew(
    book: Book,
    student: str,
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> int:
    """Make a student's numbers anew that another program or other knowledge wrote; tells of how many."""
    knowledge, _ = at_hand()
    now = versions(knowledge)
    with book.reading() as db:
        known, _ = students.load(db, student)
        stale = [one for one in swings.of_student(db, student) if one.versions != now or _changed(one)]
    made = 0
    for k, old in enumerate(stale):
        progress(k, len(stale))
        if stopped():
            break
        try:
            one = _read(old.document, knowledge, stopped)
        except (KneelError, OSError):
            one = None
        if one is not None:
            with book.writing() as db:
                swings.put(db, old.lesson, _indexed(one, knowledge, known, old.document))
            made += 1
    return made


def _changed(one: Indexed) -> bool:
    """Whether the document was changed since it was filed; one that is gone has not."""
    try:
        stamp = disk_stamp(one.document)
    except OSError:
        return False
    return stamp is not None and stamp != one.stamp


def _read(document: Path, knowledge: Knowledge, stopped: Callable[[], bool] | None = None) -> _Read | None:
    """A document's swing, judged; None where it cannot be told. With ``stopped`` what is lacking is gathered:
    half the evidence makes no number for the Book.
    """
    stamp = disk_stamp(document) or ""
    known = _known.get(document)
    if (
        known is not None
        and known.stamp == stamp
        and known.filmed.reading.school in knowledge.schools.values()
    ):
        return known
    kept = kept_swing(document) if stopped is None else whole_swing(document, stopped)
    if kept is None or not kept.whole:
        return None
    school = knowledge.school(kept.swing.school)
    numbers = OfSwing(kept.study, kept.swing.club)
    reading = judge_views(kept.studies, school, kept.swing, knowledge)
    read = _Read(stamp, kept, Filmed(kept.swing, numbers, reading))
    while len(_known) >= MOST_KNOWN:
        _known.pop(next(iter(_known)))
    _known[document] = read
    return read


def _others(documents: Sequence[Path], knowledge: Knowledge) -> list[_Read]:
    found = []
    for document in documents:
        try:
            one = _read(document, knowledge)
        except (KneelError, OSError):
            continue
        if one is not None:
            found.append(one)
    return found


def _begun(student: Student, kept: KeptSwing) -> Student:
    """A student who comes into the Book with a swing: what that swing says of the body is taken over."""
    swing = kept.swing
    scale = next((s for s in (swing.scale, *swing.take.also_scaled) if isinstance(s, Stature)), None)
    sure = scale is not None and "scale" not in swing.guessed
    hand = None if "hand" in swing.guessed else swing.hand
    return replace(
        student,
        hand=hand,
        stature_cm=scale.stature_cm if scale is not None and sure else None,
        school=swing.school,
        clubs=(swing.club,),
    )


def _indexed(one: _Read, knowledge: Knowledge, student: Student, document: Path) -> Indexed:
    kept, filmed = one.kept, one.filmed
    swing, numbers = kept.swing, filmed.numbers
    asked = {(a.measure, a.at) for a in asked_by(filmed.reading.school, numbers, knowledge)}
    asked |= {(plan.aim.measure, plan.aim.at) for plan in student.plans}
    told = [(at, numbers.tell(measure, at)) for measure, at in sorted(asked) if numbers.seen_from(measure)]
    return Indexed(
        document=document,
        clip=kept.stretch.path,
        content=swing.clip.content if swing.clip else "",
        stamp=one.stamp,
        versions=versions(knowledge),
        view=filmed.group[0],
        club=swing.club,
        kind=filmed.group[2],
        school=swing.school,
        facts=_facts(kept, filmed.reading),
        numbers=tuple(IndexedNumber.of(at, single) for at, single in told if isinstance(single, Single)),
    )


def _facts(kept: KeptSwing, reading: Reading) -> Facts:
    swing, study = kept.swing, kept.study
    start = swing.take.start
    scale = study.scale
    moments = {name: point.shown + start for name, point in study.checkpoints.items()}
    middle = None
    hips = [study.tracks[name] for name in HIPS if name in study.tracks]
    if hips and "address" in study.checkpoints:
        frame = study.checkpoints["address"].shown
        x = sum(float(track.xy[frame, 0]) for track in hips) / len(hips)
        y = sum(float(track.xy[frame, 1]) for track in hips) / len(hips)
        middle = (x, y)
    lengths = isinstance(scale, Scale) and scale.unit != "stance"
    numbers = OfSwing(study, swing.club)
    return Facts(
        moments=moments,
        cm_per_px=scale.per_px * scale.cm_per_unit if isinstance(scale, Scale) and lengths else None,
        middle=middle,
        hand=Hand(swing.hand).value,
        direction=study.direction,
        size=body_size(study),
        cm_per_unit=scale.cm_per_unit if isinstance(scale, Scale) else 1.0,
        source=numbers.source,
        blind=numbers.blind,
        rate=swing.capture_rate,
        seen=tuple(seen_of(finding) for finding, _ in reading.chain),
        overrides=swing.overrides,
        ball=swing.ball,
        complaint=swing.complaint,
        flight=swing.flight,
    )
