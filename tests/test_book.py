"""The Book: what is saved is found, two desks lose nothing, what is old or damaged is met with a sentence."""

from __future__ import annotations

import datetime
import os
import shutil
import sqlite3
import stat
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np
import pytest
from alembic.autogenerate import compare_metadata
from alembic.runtime.migration import MigrationContext
from hypothesis import given, settings
from hypothesis import strategies as st

from kneel.book import open_book
from kneel.book.db import schema
from kneel.book.db.tables import metadata
from kneel.book.exchange.from_files import TAKEN, take_in_files
from kneel.book.exchange.snapshot import packed, unpacked
from kneel.book.index.indexing import day_of, file_swing, renew
from kneel.book.index.versions import program_version
from kneel.book.repository import lessons, students, swings
from kneel.book.repository.records import packed_causes, unpacked_causes
from kneel.book.repository.swings import Versions
from kneel.book.sync import conflicts
from kneel.book.sync.merging import merged, merged_text, taken
from kneel.book.sync.saving import save_lesson, save_student
from kneel.book.views.by_school import OfBook, under_two
from kneel.book.views.last_lesson import change_since, last_time
from kneel.compare.difference import ChangeWord, difference, two_sides
from kneel.compare.family import judged_alone
from kneel.compare.trend import each_once, trend_of
from kneel.documents.swing_file import SUFFIX, load_swing, save_swing
from kneel.evidence.kept import kept_swing
from kneel.judge import Verdict, at_hand
from kneel.judge.numbers import OfSwing
from kneel.judge.reading import judge_numbers
from kneel.judge.shaping import shaped
from kneel.model import (
    BookChangedError,
    BookError,
    Club,
    Cue,
    Flag,
    Guard,
    Lesson,
    Practised,
    Prop,
    Root,
    Rung,
    Student,
    UsageError,
    View,
    Where,
)
from kneel.model.lesson import Handed
from tests.filed import DAYS, DEMO, MAREN, filed_in
from tests.test_practice import plan, plans

DAY = datetime.date(2026, 11, 3)


@pytest.fixture
def book(tmp_path):
    made = open_book(str(tmp_path / "book" / "book.sqlite"))
    yield made
    made.close()


@pytest.fixture
def maren(tmp_path, book):
    """Maren's three lessons, filed."""
    filed_in(book, tmp_path / "lessons", names=f"{MAREN}*")
    with book.reading() as db:
        return students.student_id(db, "Maren Tolhurst")


def put(book, student):
    with book.writing() as db:
        return students.save(db, student, 0)


# Students, lessons, and what is said of them.


texts = st.text("abc é“ß\n", max_size=30)
some_students = st.builds(
    Student,
    name=st.just("Ebba Quill"),
    flags=st.lists(st.sampled_from(Flag), unique=True).map(tuple),
    places=st.none() | st.lists(st.sampled_from(Where), unique=True).map(tuple),
    props=st.none() | st.lists(st.sampled_from(Prop), unique=True).map(tuple),
    plans=st.lists(plans, max_size=2).map(tuple),
    tried=st.lists(
        st.builds(
            Cue,
            words=st.text("abc é“", min_size=1).filter(str.strip),
            date=st.dates(datetime.date(1900, 1, 1), datetime.date(2100, 12, 31)),
            fault=st.just("sway"),
            measure=st.just("pelvis_shift"),
            at=st.just("top"),
            unit=st.just("cm"),
            way=st.sampled_from(["up", "down"]),
            before=st.floats(-99, 99),
            before_sigma=st.floats(0, 9),
            after=st.floats(-99, 99),
            after_sigma=st.floats(0, 9),
        ),
        max_size=3,
    ).map(tuple),
    stature_cm=st.none() | st.floats(80, 250),
    clubs=st.lists(st.sampled_from(Club), unique=True).map(tuple),
    goals=texts,
    notes=texts,
)


@settings(max_examples=20)
@given(some_students, texts, st.floats(-99, 99))
def test_a_record_comes_back_as_it_was_written(tmp_path_factory, student, said, value):
    book = open_book(str(tmp_path_factory.mktemp("book") / "book.sqlite"))
    kept, _ = put(book, student)
    root = Root("sway", measure="pelvis_shift", at="top", unit="cm", value=value, sigma=0.7, limit=-1.5)
    lesson = Lesson(kept.id, DAY, said=said, root=root, handed=(Handed(DAY, "page", "a.pdf"),))
    with book.writing() as db:
        lesson, _ = lessons.save(db, lesson, 0)
    with book.reading() as db:
        assert students.named(db, "ebba  QUILL") == (kept, 1)
        assert msgspec.structs.replace(kept, id="") == student
        assert lessons.on_day(db, kept.id, DAY) == (lesson, 1)
    book.close()


def test_whose_a_name_is(book):
    """A renamed student is found by the old name in documents; two people cannot have one name."""
    ebba, revision = put(book, Student("Ebba Quill"))
    with book.writing() as db:
        students.save(db, msgspec.structs.replace(ebba, name="Ebba Quill-Marsh"), revision)
        assert students.student_id(db, "ebba quill") == students.student_id(db, "Ebba Quill-Marsh") == ebba.id
        assert students.student_id(db, "Ébba Quill") is None
    with pytest.raises(UsageError, match="already"):
        put(book, Student(" EBBA quill-marsh"))
    other, _ = put(book, Student("Ebba Quill"))
    with book.reading() as db:
        assert students.student_id(db, "Ebba Quill") == other.id, "a name nobody has now may be given anew"


def test_everything_written_is_found_by_its_words(book, maren):
    with book.writing() as db:
        lesson, revision = lessons.on_day(db, maren, DAY)
        lessons.save(db, msgspec.structs.replace(lesson, said="Hält die Hüfte 50% zurück"), revision)
    put(book, Student("Ebba Quill", goals="A draw"))
    with book.reading() as db:

        def found(query):
            return [one.name for one in students.listed(db, query)]

        assert found("") == ["Maren Tolhurst", "Ebba Quill"], "the latest lesson first"
        assert found("hufte 50%") == found("SWAY fat") == found("tolhurst zuruck") == ["Maren Tolhurst"]
        assert found("draw") == ["Ebba Quill"] and found("50%draw") == found("h_lt") == []
        assert [one.day for one, _ in lessons.of_student(db, maren, "hufte")] == [DAY]


def test_two_desks_keep_what_each_changed(book):
    """The other's stands where both changed one thing; the loser's is told of and kept, words are kept."""
    base, revision = put(book, Student("Ebba Quill", minutes=15))
    change = msgspec.structs.replace
    first = save_student(book, base, change(base, minutes=20, notes="from one"), revision)
    assert first.lost == ()
    second = save_student(book, base, change(base, minutes=30, notes="from two", goals="Draw"), revision)
    assert second.lost == ("minutes",)
    assert (second.record.minutes, second.record.goals) == (20, "Draw")
    assert second.record.notes == "from one\nfrom two"
    with book.reading() as db:
        (kept,) = conflicts.kept(db, base.id)
    assert kept.fields == ("minutes",) and kept.record["minutes"] == 30
    # Begun on both desks at once, before the Book had it.
    fresh = Student("Ida Fenn")
    save_student(book, fresh, change(fresh, minutes=40), 0)
    both = save_student(book, fresh, change(fresh, goals="Low"), 0)
    assert (both.record.minutes, both.record.goals, both.lost) == (40, "Low", ())
    lesson = Lesson(base.id, DAY)
    save_lesson(book, lesson, change(lesson, said="one"), 0)
    assert save_lesson(book, lesson, change(lesson, said="two"), 0).record.said == "one\ntwo"
    with book.writing() as db, pytest.raises(BookChangedError, match="another desk"):
        lessons.save(db, change(lesson, said="three"), 0)


three_of = lambda one: st.lists(one, min_size=3, max_size=3)  # noqa: E731


@given(three_of(st.integers(0, 3)), three_of(st.sets(st.sampled_from(list(Flag)))))
def test_merging_keeps_what_only_one_changed(numbers, flags):
    base, mine, theirs = (
        Student("E", minutes=15 + n, flags=tuple(f for f in Flag if f in some))
        for n, some in zip(numbers, flags, strict=True)
    )
    both = merged(base, mine, theirs)
    was, here, there, now = (one.minutes for one in (base, mine, theirs, both.record))
    assert now == (here if there == was else there)
    assert both.lost == (("minutes",) if here not in (was, there) and there != was else ())
    was, here, there = flags
    assert set(both.record.flags) == (there | (here - was)) - (was - here)


@given(three_of(st.lists(st.sampled_from("abcdef"), unique=True, max_size=5)))
def test_lines_of_a_text_are_merged_and_no_line_that_was_written_is_lost(lines):
    """Of two desks, and of undo over what somebody else wrote since."""
    was, here, there = lines
    words = ["\n".join(some) for some in lines]
    text, whole = merged_text(*words)
    assert whole
    found = text.split("\n") if text else []
    assert {*here, *there} - {*was} <= {*found}, "what either wrote"
    assert not {line for line in was if line not in here and line not in there} & {*found}
    assert {line for line in was if line in here and line in there} <= {*found}
    for alone in ((words[0], words[0], words[2]), (words[0], words[2], words[0])):
        assert merged_text(*alone) == (words[2], True)
    careful, kept = merged_text(*words, both=False)
    assert kept or {*there} - {*was} <= {*careful.split("\n")}, "theirs stands where both wrote"


def test_logs_are_merged_by_day_and_a_record_never_passes_its_bounds():
    begun = plan(log=())
    base = Student("E", plans=(begun,), notes="x" * 19_000)
    days = [Practised(begun.start + datetime.timedelta(k), Rung.NO_BALL, 10) for k in range(3)]
    mine, theirs = (
        msgspec.structs.replace(
            base, plans=(msgspec.structs.replace(begun, log=log),), notes=base.notes + "\n" + word * 800
        )
        for log, word in ((tuple(days[:2]), "m"), ((days[0], days[2]), "t"))
    )
    both = merged(base, mine, theirs)
    assert both.record.plan.log == tuple(days)
    assert both.record.notes == theirs.notes and both.lost == ("notes",), "too long for one: theirs stands"
    other = msgspec.structs.replace(
        mine,
        plans=(
            msgspec.structs.replace(begun, log=(msgspec.structs.replace(days[0], held=True),), ended="held"),
        ),
    )
    clash = merged(base, other, theirs)
    assert "plans" in clash.lost and clash.record.plans[0].ended == "held"
    assert taken(clash.record, other, ("plans",)).plans[0].log == (other.plans[0].log[0], days[2])
    assert [one.ended for one in merged(mine, base, mine).record.plans] == [""], "undo, nobody else wrote"
    another = msgspec.structs.replace(base, plans=(*base.plans, begun))
    assert merged(base, msgspec.structs.replace(base, plans=()), another).record.plans == another.plans
    assert merged(base, another, msgspec.structs.replace(base, plans=())).record.plans == ()


# Opening.


def test_the_book_is_its_owners_alone_and_has_the_schema_of_its_tables(book):
    assert stat.S_IMODE(book.path.stat().st_mode) == 0o600
    assert stat.S_IMODE(book.path.parent.stat().st_mode) == 0o700
    put(book, Student("Ebba Quill"))
    log = book.path.with_name(f"{book.path.name}-wal")
    assert stat.S_IMODE(log.stat().st_mode) == 0o600
    with book.reading() as db:
        context = MigrationContext.configure(db, opts={"compare_type": True})
        assert compare_metadata(context, metadata) == []
        asked = ("journal_mode", "foreign_keys", "secure_delete", "synchronous")
        assert [db.exec_driver_sql(f"PRAGMA {name}").scalar() for name in asked] == ["wal", 1, 1, 2]


def test_where_the_book_is(tmp_path, monkeypatch):
    monkeypatch.setenv("KNEEL_BOOK", f"sqlite:///{tmp_path}/there/my.sqlite")
    open_book().close()
    assert (tmp_path / "there" / "my.sqlite").is_file()
    monkeypatch.setenv("KNEEL_BOOK", str(tmp_path / "here.sqlite"))
    open_book().close()
    assert (tmp_path / "here.sqlite").is_file()
    for wrong, words in (("sqlite://", "no file"), ("x://", "driver|URL"), ("postgresql://a@b/c", "driver")):
        with pytest.raises(BookError, match=words):
            open_book(wrong)


def test_what_is_no_book_is_left_alone(tmp_path):
    path = tmp_path / "notes.txt"
    path.write_bytes(b"my notes " * 200)
    with pytest.raises(BookError, match=r"no book, or a damaged one.*untouched"):
        open_book(str(path))
    assert path.read_bytes() == b"my notes " * 200
    with pytest.raises(BookError, match="no file"):
        open_book(str(tmp_path))
    newer = tmp_path / "newer.sqlite"
    open_book(str(newer)).close()
    with sqlite3.connect(newer) as db:
        db.execute("UPDATE alembic_version SET version_num = '9999'")
    db.close()
    with pytest.raises(BookError, match="newer Kneel"):
        open_book(str(newer))


def test_where_nothing_can_be_written_is_told(tmp_path):
    """A place that takes no folder; and, but for a superuser, a folder that takes no file."""
    with pytest.raises(BookError, match=r"cannot be opened.*nothing was changed"):
        open_book("/proc/kneel/book.sqlite")
    if os.geteuid():
        tmp_path.chmod(0o500)
        with pytest.raises(BookError, match="cannot be opened"):
            open_book(str(tmp_path / "book.sqlite"))
        tmp_path.chmod(0o700)


def test_a_book_that_may_only_be_read_is_read_and_says_so(book):
    """Held read-only by SQLite itself, as a folder of somebody else's would hold it."""
    student, revision = put(book, Student("Ebba Quill"))
    with book.reading() as db:
        db.connection.dbapi_connection.execute("PRAGMA query_only = ON")
    with pytest.raises(BookError, match=r"written to \(its file or folder is read-only\).*safe"):
        save_student(book, student, msgspec.structs.replace(student, notes="x"), revision)
    with book.reading() as db:
        assert students.load(db, student.id) == (student, revision)


def test_a_full_disk_is_told_and_loses_nothing(book):
    """The size of the file is held, as a full disk would hold it."""
    student, revision = put(book, Student("Ebba Quill"))
    with book.reading() as db:
        pages = db.exec_driver_sql("PRAGMA page_count").scalar()
        raw = db.connection.dbapi_connection
        raw.execute(f"PRAGMA max_page_count = {pages}")
    with pytest.raises(BookError, match=r"the disk is full.*safe"):
        save_student(book, student, msgspec.structs.replace(student, notes="x" * 19_000), revision)
    with book.reading() as db:
        assert students.load(db, student.id) == (student, revision)


# Records of before there was a Book.


def record(folder, name, raw=None, **fields):
    folder.mkdir(exist_ok=True)
    path = folder / f"{name.split()[0].lower()}-abc123.student.json"
    content = {"kneel": 1, "student": {"name": name, "minutes": 20, **fields}}
    path.write_bytes(msgspec.json.encode(content) if raw is None else raw)
    return path


def test_records_in_files_are_taken_in_once(tmp_path, book):
    folder = tmp_path / "students"
    put(book, Student("Ida Fenn", minutes=45))
    for name in ("Ebba Quill", "Ida Fenn"):
        record(folder, name)
    damaged = record(folder, "Worn Out", b'{"kneel": 1, "student": {"minutes": 999}}')
    (trouble,) = take_in_files(book, folder)
    assert "damaged" in trouble and damaged.exists()
    with book.reading() as db:
        assert [students.named(db, name)[0].minutes for name in ("Ebba Quill", "Ida Fenn")] == [20, 45]
    assert len(list(folder.glob(f"*{TAKEN}"))) == 2
    assert len(take_in_files(book, folder)) == 1


@pytest.mark.parametrize(
    "raw", [b"", b"[]", b"{}", b'{"kneel": 99, "student": {"new": 1}}', b"\xff", b'{"kneel":1,"student":{}}']
)
def test_a_damaged_record_is_refused_and_left_alone(tmp_path, book, raw):
    path = record(tmp_path / "s", "Ebba Quill", raw)
    (trouble,) = take_in_files(book, tmp_path / "s")
    assert "untouched" in trouble and path.read_bytes() == raw


# Swings: filed, made anew, and held against each other.


def test_a_filed_swing_is_what_its_document_comes_to(book, maren, tmp_path):
    """Every number of the index, and its causes, are those of the swing analysed again."""
    document = tmp_path / "lessons" / DAYS[2] / f"{MAREN}{SUFFIX}"
    study = kept_swing(document).study
    with book.reading() as db:
        told = swings.measures_told(db, maren)
        kept = swings.by_document(db, document)
        assert len(told) > 30
        seen = [one for one in told if rows_of(db, maren, one)[-1].document == document]
        for measure, at, _ in seen:
            number = next(r for r in rows_of(db, maren, (measure, at)) if r.document == document)
            single = OfSwing(study).tell(measure, at)
            again = number.tell(measure, at)
            assert (again.value, again.sigma, again.unit) == (single.value, single.sigma, single.unit)
            assert np.sqrt(sum(m**2 for m in again.causes.values())) == pytest.approx(
                np.sqrt(sum(m**2 for m in single.causes.values())), rel=0.01
            )
    assert kept.facts.moments["top"] == study.checkpoints["top"].shown
    assert kept.facts.cm_per_px == pytest.approx(study.scale.per_px)
    assert kept.versions.program == program_version() and kept.facts.seen[0].fault == "sway"


def rows_of(db, student, asked):
    return swings.told_of(db, student, asked[0], asked[1])


def test_lessons_are_made_of_days_and_carry_the_last_ones_root(book, maren):
    """The fault of the first lesson stays what is worked on, told by the number it was told by then."""
    with book.reading() as db:
        found = [one for one, _ in lessons.of_student(db, maren)][::-1]
        counts = [len(swings.of_lesson(db, one.id)) for one in found]
    assert [one.day.isoformat() for one in found] == list(DAYS) and counts == [2, 2, 2]
    assert [(one.root.fault, one.root.measure, one.root.at) for one in found] == [
        ("sway", "pelvis_shift", "top")
    ] * 3
    assert found[0].complaint.startswith("Fat and thin") and found[0].root.limit == pytest.approx(-1.44)


def test_a_swing_without_a_name_is_in_no_book(book, tmp_path):
    shutil.copytree(DEMO / DAYS[2], tmp_path / "day")
    document = tmp_path / "day" / f"{MAREN}{SUFFIX}"
    save_swing(document, load_swing(document).given(golfer=" "))
    assert file_swing(book, document) is None
    assert day_of(tmp_path / "day" / f"{MAREN}.mp4") == datetime.date.fromtimestamp(
        (tmp_path / "day" / f"{MAREN}.mp4").stat().st_mtime
    )


def test_a_swing_of_another_golfer_moves_and_leaves_no_empty_lesson(book, maren, tmp_path):
    """A name that was corrected: the swing is in one lesson only, and what was written stays."""
    document = tmp_path / "lessons" / DAYS[0] / f"{MAREN}{SUFFIX}"
    line = document.with_name(f"{MAREN}-line{SUFFIX}")
    for path in (document, line):
        save_swing(path, load_swing(path).given(golfer="Ida Fenn"))
        file_swing(book, path)
    with book.reading() as db:
        assert [one.day.isoformat() for one, _ in lessons.of_student(db, maren)] == [*DAYS[:0:-1]]
        ida = students.student_id(db, "Ida Fenn")
        assert len(swings.of_student(db, ida)) == 2 and len(swings.of_student(db, maren)) == 4
    with book.writing() as db:
        lesson, revision = lessons.on_day(db, maren, DAY)
        lessons.save(db, msgspec.structs.replace(lesson, said="Stays"), revision)
    for path in (tmp_path / "lessons" / DAYS[2]).glob(f"*{SUFFIX}"):
        save_swing(path, load_swing(path).given(golfer="Ida Fenn"))
        file_swing(book, path)
    with book.reading() as db:
        assert lessons.on_day(db, maren, DAY)[0].said == "Stays"


def test_a_trend_is_of_one_camera_club_and_version(book, maren, tmp_path):
    """Points that cannot be compared are hollow, say in what, and are in no line; numbers are made anew."""
    knowledge = at_hand()[0]

    def trend():
        with book.reading() as db:
            student, _ = students.load(db, maren)
            rows = swings.told_of(db, maren, "pelvis_shift", "top")
            return trend_of(rows, "pelvis_shift", "top", student, knowledge, program_version())

    whole = trend()
    assert [point.hollow for point in whole.points] == [False] * 3 and whole.limits.lo == pytest.approx(-1.44)
    studies = [
        kept_swing(tmp_path / "lessons" / day / f"{MAREN}{SUFFIX}").study for day in (DAYS[0], DAYS[2])
    ]
    sides = [[OfSwing(study)] for study in studies]
    direct = judged_alone(difference(*two_sides(*sides), "pelvis_shift", "top"), whole.limits.margin)
    assert whole.change.verdict is direct.verdict is ChangeWord.ALIKE
    assert (whole.change.difference, whole.change.sigma) == pytest.approx(
        (direct.difference, direct.sigma), rel=0.01
    )
    assert whole.points[0].sigma == pytest.approx(sides[0][0].tell("pelvis_shift", "top").sigma, rel=0.01)
    document = tmp_path / "lessons" / DAYS[1] / f"{MAREN}{SUFFIX}"
    with book.writing() as db:
        old = next(
            one for one in swings.told_of(db, maren, "pelvis_shift", "top") if one.document == document
        )
        swings.put(db, old.lesson, replace(old, versions=Versions("0.0", "x")))
    assert [point.other for point in trend().points] == [(), ("another version",), ()]
    assert len(trend().line) == 2
    assert renew(book, maren) == 1 and not any(point.hollow for point in trend().points)
    save_swing(document, load_swing(document).given(club=Club.DRIVER))
    file_swing(book, document)
    assert trend().points[1].other == ("another club: driver",)


def test_a_swing_given_twice_is_one_and_a_number_picked_from_many_claims_less(book, maren, tmp_path):
    """A second document of one swing makes no error smaller; what nobody prescribed is one of forty."""
    knowledge = at_hand()[0]
    with book.reading() as db:
        student, _ = students.load(db, maren)

    def trend(rows=None, person=student, **more):
        with book.reading() as db:
            rows = rows or swings.told_of(db, maren, "pelvis_shift", "top")
        return trend_of(rows, "pelvis_shift", "top", person, knowledge, program_version(), **more)

    before = trend()
    folder = tmp_path / "lessons" / DAYS[2]
    again = folder / f"{MAREN}.desk-2{SUFFIX}"
    save_swing(again, load_swing(folder / f"{MAREN}{SUFFIX}"))
    file_swing(book, again)
    with book.reading() as db:
        rows = swings.told_of(db, maren, "pelvis_shift", "top")
        root = lessons.on_day(db, maren, DAY)[0].root
    assert len(rows) == 4 and root.sigma == pytest.approx(before.points[-1].sigma, rel=0.01)
    assert [(p.count, p.sigma) for p in trend().points] == [(p.count, p.sigma) for p in before.points]

    def verdict(by, others, prescribed):
        """What is said of a change of so many stated errors."""
        moved = [(rows[0], 0.0), (rows[1], by * before.change.sigma)]
        two = [replace(r, numbers=(replace(r.numbers[0], value=v),)) for r, v in moved]
        person = msgspec.structs.replace(student, plans=(plan_of_shift(),) if prescribed else ())
        return trend(two, person, others=others).change.verdict

    assert verdict(2.2, 39, True) is ChangeWord.DIFFER and verdict(2.2, 39, False) is ChangeWord.ALIKE
    assert verdict(4.0, 39, False) is ChangeWord.DIFFER and verdict(1.5, 0, True) is ChangeWord.ALIKE


def test_a_swing_is_one_though_its_address_is_found_a_frame_later(book, maren):
    """Two documents of one clip: of one swing where mostly the same frames are meant, else of two."""
    with book.reading() as db:
        row = swings.told_of(db, maren, "pelvis_shift", "top")[0]
    moments = row.facts.moments

    def moved(by):
        later = {name: frame + by for name, frame in moments.items()}
        return replace(row, id=row.id + 1, facts=msgspec.structs.replace(row.facts, moments=later))

    assert each_once([row, moved(1)]) == [moved(1)] and each_once([row, moved(-9)]) == [moved(-9)]
    assert len(each_once([row, moved(400)])) == 2
    # A document that knows but a part of it is of the same swing.
    part = {name: moments[name] for name in ("top", "impact")}
    few = replace(row, id=row.id + 1, facts=msgspec.structs.replace(row.facts, moments=part))
    assert each_once([row, few]) == [few]
    assert len(each_once([row, replace(moved(1), content="another clip")])) == 2


def test_a_chosen_lesson_and_the_worst_number_pay_for_the_choice(book, maren):
    """Held against a lesson that was picked, or a number picked among many, a change has to be larger."""
    knowledge = at_hand()[0]
    with book.reading() as db:
        student, _ = students.load(db, maren)
        rows = swings.told_of(db, maren, "pelvis_shift", "top")

    def trend(person=student, **more):
        return trend_of(rows, "pelvis_shift", "top", person, knowledge, program_version(), **more)

    first, picked = trend(), trend(since=rows[1].lesson)
    assert first.reference is first.line[0] and first.against[0] is None
    assert picked.reference is picked.line[1] and [one is None for one in picked.against] == [
        False,
        True,
        False,
    ]
    assert picked.change.limit(0.02 / 2) == pytest.approx(picked.change.detectable)
    assert first.change.limit(0.02) == pytest.approx(first.change.detectable)
    assert trend(others=9).change.limit(0.002) == pytest.approx(trend(others=9).change.detectable)
    made = msgspec.structs.replace(plan_of_shift(), among=4)
    planned = trend(msgspec.structs.replace(student, plans=(made,)))
    assert planned.change.limit(0.05 / 4) == pytest.approx(planned.change.detectable)
    assert planned.better is True and first.better is True and trend(since=rows[2].lesson).better is True
    down = msgspec.structs.replace(made, aim=msgspec.structs.replace(made.aim, way="down"))
    assert trend(msgspec.structs.replace(student, plans=(down,))).better is False


def test_a_lesson_without_a_root_lets_nothing_go(book, maren):
    """A day of putting between: what was worked on before still binds, and is held against its own swings."""
    day = DAY + datetime.timedelta(days=7)
    with book.writing() as db:
        lesson, revision = lessons.on_day(db, maren, day)
        lessons.save(db, msgspec.structs.replace(lesson, said="Putting only"), revision)
    with book.reading() as db:
        left = last_time(db, maren, day + datetime.timedelta(days=7))
    assert left.lesson.said == "Putting only" and left.root.fault == "sway" and left.worked.day == DAY
    assert left.rows and {row.lesson for row in left.rows} == {left.worked.id}


def test_only_numbers_of_this_program_are_held_against_today(book, maren, tmp_path):
    with book.reading() as db:
        left = last_time(db, maren, DAY + datetime.timedelta(days=7))
    kept = kept_swing(tmp_path / "lessons" / DAYS[2] / f"{MAREN}{SUFFIX}")
    now = OfSwing(kept.study, kept.swing.club)
    assert change_since(left, kept.swing, now).verdict is ChangeWord.ALIKE
    old = tuple(replace(row, versions=Versions("0.0", "x")) for row in left.rows)
    assert change_since(replace(left, rows=old), kept.swing, now) is None


def test_records_that_were_kept_in_inches_are_read_in_centimetres(book):
    """A plan, its ladder, guards and log, a cue and a root: 2.54 cm to the inch, exactly."""
    made = plan_of_shift()
    inches = {"unit": "in", "limit": 1.0, "by": 1.0, "start": -2.0, "sigma": 0.5}
    guard = Guard("head_lift", "top", "in", "up", 1.0, 2.0, 0.5)
    log = (Practised(made.start, Rung.FULL, 10, value=-1.0, sigma=0.5),)
    aim = msgspec.structs.replace(made.aim, **inches)
    made = msgspec.structs.replace(made, aim=aim, ladder=(0.5, 1.0, 1.5, 2.0), guards=(guard,), log=log)
    cue = Cue("Turn", made.start, "sway", "pelvis_shift", "top", "in", "up", -2.0, 0.5, -1.0, 0.5, 0.25)
    student, _ = put(book, Student("Ebba Quill", plans=(made,), tried=(cue,)))
    with book.writing() as db:
        lesson, revision = lessons.on_day(db, student.id, DAY)
        root = Root("sway", measure="pelvis_shift", at="top", unit="in", value=-2.0, sigma=0.5, limit=1.0)
        lessons.save(db, msgspec.structs.replace(lesson, root=root), revision)
    with book.reading() as db:
        read, _ = students.load(db, student.id)
        told = lessons.on_day(db, student.id, DAY)[0].root
    (kept,), (tried,) = read.plans, read.tried
    assert (kept.aim.unit, kept.aim.limit, kept.aim.start, kept.aim.sigma) == ("cm", 2.54, -5.08, 1.27)
    assert kept.ladder == pytest.approx((1.27, 2.54, 3.81, 5.08)) and kept.log[0].value == -2.54
    assert (kept.guards[0].unit, kept.guards[0].by) == ("cm", 2.54)
    assert (tried.unit, tried.before, tried.sigma) == ("cm", -5.08, 0.635)
    assert (told.unit, told.value, told.limit) == ("cm", -5.08, 2.54)


def plan_of_shift():
    made = plan()
    aim = msgspec.structs.replace(made.aim, measure="pelvis_shift", at="top", unit="cm")
    return msgspec.structs.replace(made, aim=aim)


some_keys = st.tuples(st.text("ab ", min_size=1), st.text("xyz", min_size=1))


@given(st.dictionaries(some_keys, st.floats(-9, 9), max_size=8))
def test_causes_come_back(causes):
    sigma = float(np.sqrt(sum(m**2 for m in causes.values()))) or 1.0
    again = unpacked_causes(packed_causes(causes, sigma))
    lost = sum(m**2 for key, m in causes.items() if key not in again)
    assert lost <= 8e-4 * sigma**2
    assert all(causes[key] == pytest.approx(moved, rel=1e-6) for key, moved in again.items())


def test_a_student_sent_and_taken_in_is_the_same(book, maren, tmp_path):
    root = tmp_path / "lessons"
    with book.reading() as db:
        sent = packed(db, maren, lambda path: str(path.relative_to(root)))
    assert msgspec.json.decode(msgspec.json.encode(sent), type=type(sent)) == sent
    other = open_book(str(tmp_path / "other.sqlite"))
    with other.writing() as db:
        key = unpacked(db, sent, lambda name: root / name)
        assert (
            packed(db, key, lambda path: str(path.relative_to(root))).lessons[0].swings
            == sent.lessons[0].swings
        )
        assert [one.name for one in students.listed(db, "fat thin sway")] == ["Maren Tolhurst"]
    other.close()


def test_a_record_the_program_does_not_know_is_refused(book):
    with book.writing() as db:
        students.save(db, Student("Ebba Quill"), 0)
        db.exec_driver_sql('UPDATE students SET record = \'{"name": "Ebba Quill", "age": 3}\'')
    with book.reading() as db, pytest.raises(BookError, match="damaged, or of a newer Kneel"):
        students.named(db, "Ebba Quill")


# Older Books.

OLD = sorted((Path(__file__).parent / "data").glob("book-*.sqlite"))


@pytest.mark.parametrize("old", OLD, ids=[path.stem for path in OLD])
def test_a_book_of_every_released_schema_is_brought_up_and_loses_nothing(tmp_path, old):
    """Real files, each written by the program of its day; a copy of the old state lies beside."""
    path = tmp_path / "book.sqlite"
    shutil.copy(old, path)
    book = open_book(str(path))
    with book.reading() as db:
        context = MigrationContext.configure(db, opts={"compare_type": True})
        assert compare_metadata(context, metadata) == []
        maren, _ = students.named(db, "Maren Tolhurst")
        ((lesson, _),) = lessons.of_student(db, maren.id)
        (row,) = swings.told_of(db, maren.id, "pelvis_shift", "top")
    assert lesson.day == DAY and lesson.root.fault == "sway" and "trail" in lesson.said.lower()
    assert len(maren.plans) == 3 and maren.plan.aim.measure == "pelvis_shift"
    assert row.numbers[0].value == pytest.approx(-5.86, abs=0.05) and len(row.numbers[0].causes) > 4
    book.close()


def test_every_schema_has_an_old_book_to_be_tried_on():
    steps = {script.revision for script in schema.scripts().walk_revisions()}
    assert {path.stem.removeprefix("book-") for path in OLD} == steps == set(schema.known())
    assert schema.newest() == schema.scripts().get_current_head()


def test_a_students_swings_are_judged_by_another_school_from_what_the_book_keeps(book, maren):
    """The same faults as when they were filed; under a school that forbids all, every one; by word, none."""
    knowledge = at_hand()[0]
    centred = knowledge.school("centred")
    narrow = shaped(centred, centred, "pelvis_tilt", "top", lo=30.0, hi=40.0)
    with book.reading() as db:
        rows = swings.of_student(db, maren)
        found = under_two(db, maren, centred, narrow, knowledge)
        told = swings.numbers_of(db, [row.id for row in rows])
    face = [row for row in rows if row.view is View.FACE_ON]
    for row in face:
        reading = judge_numbers(OfBook(row, told[row.id]), centred, knowledge=knowledge)
        firm = {one.fault for one in row.facts.seen if one.verdict == "fault"}
        assert firm
        assert {finding.key for finding in reading.found(Verdict.FAULT)} == firm
    assert found.swings == len(rows)
    flat = next(one for one in found.changed if one.title == "Flat turn")
    assert (flat.before, flat.after) == (0, len(face))
    assert [one.title for one in found.changed] == ["Flat turn"]
