"""Copies of the Book, lessons sent and taken in, deleting for good, and the command line for all of it."""

from __future__ import annotations

import datetime
import json
import os
import shutil
import sqlite3
import stat
import zipfile
from pathlib import Path

import msgspec
import pytest

from kneel.book import open_book
from kneel.book.exchange import exporting, importing
from kneel.book.index.indexing import file_swing
from kneel.book.maintenance import copies, purge
from kneel.book.repository import lessons, students, swings
from kneel.cli.main import main
from kneel.disk import token_of
from kneel.documents.glance_file import Glance, load_glance, save_glance
from kneel.documents.swing_file import SUFFIX, load_swing, save_swing
from kneel.documents.thumb_file import thumb_file
from kneel.evidence.kept import kept_swing
from kneel.evidence.shelf import Shelf, sidecar
from kneel.judge import judge, known
from kneel.model import BookError, ParcelError, Student
from kneel.model.two_takes import with_second
from tests.filed import DEMO, MAREN, filed_in, lessons_in
from tests.fuzzing.book_kills import KINDS, killed, lesson_folder

DAY = "2026-11-03"
TODAY = datetime.date(2026, 11, 27)


@pytest.fixture
def book(tmp_path):
    made = open_book(str(tmp_path / "book" / "book.sqlite"))
    yield made
    made.close()


@pytest.fixture
def filed(tmp_path, book):
    """Maren's face-on swing of one day, filed, with things said; gives her id."""
    (document,) = filed_in(book, tmp_path / "range", (DAY,))
    with book.writing() as db:
        lesson, revision = lessons.load(db, swings.by_document(db, document).lesson)
        lessons.save(db, msgspec.structs.replace(lesson, said="The trail pocket goes behind her"), revision)
        person, at = students.named(db, "Maren Tolhurst")
        students.save(db, msgspec.structs.replace(person, notes="Ankle sprain", minutes=25), at)
    return person.id


def names_in(path):
    with sqlite3.connect(f"file:{path}?mode=ro", uri=True) as db:
        return [row[0] for row in db.execute("SELECT name FROM students ORDER BY name")]


# Copies.


def test_a_copy_holds_the_same_and_comes_back(book, filed, tmp_path):
    copy = tmp_path / "copy.sqlite"
    found = copies.back_up(book, copy)
    assert (found.students, found.lessons, found.swings, found.troubles) == (1, 1, 1, ())
    assert stat.S_IMODE(copy.stat().st_mode) == 0o600 and not list(tmp_path.glob("copy.sqlite-*"))
    with book.writing() as db:
        students.save(db, Student("Ebba Quill"), 0)
    again, aside = copies.restore(copy, book.path)
    assert names_in(book.path) == ["Maren Tolhurst"] and again.students == 1
    assert names_in(aside) == ["Ebba Quill", "Maren Tolhurst"], "what was there before is kept"
    with book.reading() as db:
        assert students.load(db, filed)[0].notes == "Ankle sprain"
        assert swings.told_of(db, filed, "pelvis_shift", "top")[0].numbers[0].value == pytest.approx(
            -5.86, abs=0.1
        )


def test_what_is_no_copy_is_refused_and_harms_nothing(book, filed, tmp_path):
    other = tmp_path / "other.sqlite"
    with sqlite3.connect(other) as db:
        db.execute("CREATE TABLE notes (x)")
    db.close()
    damaged = tmp_path / "damaged.sqlite"
    copies.back_up(book, damaged)
    raw = bytearray(damaged.read_bytes())
    raw[5000:9000] = os.urandom(4000)
    damaged.write_bytes(raw)
    text = tmp_path / "notes.sqlite"
    text.write_text("my notes")
    for path, words in (
        (other, "no Book"),
        (damaged, "sound|damaged"),
        (text, "no Book"),
        (tmp_path / "x", "no file"),
    ):
        with pytest.raises(BookError, match=words):
            copies.restore(path, book.path)
    with pytest.raises(BookError, match="itself"):
        copies.back_up(book, book.path)
    assert names_in(book.path) == ["Maren Tolhurst"]


def test_a_copy_a_day_and_the_last_seven(book, filed):
    days = [TODAY + datetime.timedelta(days=k) for k in range(9)]
    made = [copies.daily(book, day) for day in days]
    assert all(made) and copies.daily(book, days[-1]) is None
    kept = sorted(path.name for path in (book.path.parent / "copies").iterdir())
    assert kept == [f"book-{day.isoformat()}.sqlite" for day in days[2:]]


def test_a_check_names_what_is_gone_and_what_hangs_on_nothing(book, filed, tmp_path):
    assert copies.check(book).troubles == ()
    (tmp_path / "range" / DAY / f"{MAREN}.mp4").rename(tmp_path / "elsewhere.mp4")
    (trouble,) = copies.check(book).troubles
    assert "clip" in trouble and "still known" in trouble
    with sqlite3.connect(book.path) as db:
        db.execute("UPDATE swings SET lesson = 'nothing'")
    db.close()
    assert any("hang on nothing" in words for words in copies.check(book).troubles)


# Sending and taking in.


def test_lessons_sent_and_taken_in_have_their_verdicts_at_once(book, filed, tmp_path, monkeypatch):
    """Another desk, nothing cached: what was followed comes along, words and numbers are the same."""
    folder = exporting.export(book, filed, tmp_path / "out")
    packed = tmp_path / "maren.zip"
    exporting.zipped(folder, packed)
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "fresh cache"))
    for number, source in enumerate((folder, packed, tmp_path / "out")):
        other = open_book(str(tmp_path / f"other{number}" / "book.sqlite"))
        (taken,) = importing.take_in(other, source)
        assert (taken.name, taken.lessons, taken.swings, taken.troubles) == ("Maren Tolhurst", 1, 1, ())
        with other.reading() as db, book.reading() as mine:
            (lesson, _), (was, _) = (
                lessons.of_student(db, taken.student)[0],
                lessons.of_student(mine, filed)[0],
            )
            assert (lesson.said, lesson.day, lesson.root) == (was.said, was.day, was.root)
            assert students.load(db, taken.student)[0].notes == "Ankle sprain"
            (row,), (mine_row,) = (
                swings.told_of(base, key, "pelvis_shift", "top")
                for base, key in ((db, taken.student), (mine, filed))
            )
        assert row.numbers[0].value == mine_row.numbers[0].value
        assert (
            row.clip.is_relative_to(other.folder / "lessons")
            and stat.S_IMODE(row.clip.parent.stat().st_mode) == 0o700
        )
        study = kept_swing(row.document).study
        verdict = judge(study, known().school("centred"), load_swing(row.document)).of("sway").verdict
        assert verdict.value == "fault"
        other.close()


def test_a_swing_by_two_cameras_goes_and_comes_whole(book, tmp_path, monkeypatch):
    """Both clips and what was followed in them are sent, taken in and deleted with the one document."""
    face, line = lessons_in(tmp_path / "range", (DAY,), f"{MAREN}*")
    face, line = sorted((face, line), key=lambda path: "line" in path.name)
    save_swing(face, with_second(load_swing(face), load_swing(line).take))
    line.unlink()
    filed = file_swing(book, face)
    folder = exporting.export(book, filed.student, tmp_path / "out")
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "fresh cache"))
    other = open_book(str(tmp_path / "other" / "book.sqlite"))
    (taken,) = importing.take_in(other, folder)
    with other.reading() as db:
        (row,) = swings.of_student(db, taken.student)
    clips = [row.clip, Path(load_swing(row.document).takes[1].clip.path)]
    assert all(clip.is_relative_to(other.folder / "lessons") and sidecar(clip).is_file() for clip in clips)
    known_there, known_here = kept_swing(row.document), kept_swing(face)
    assert known_there.whole and known_there.linked.numbers == known_here.linked.numbers
    with other.writing() as db:
        purge.hide(db, "student", taken.student)
    purge.purge(other, [taken.student])
    assert not any(clip.exists() or sidecar(clip).exists() for clip in clips)
    other.close()


def test_what_is_taken_in_twice_is_there_once(book, filed, tmp_path):
    """Into the Book it came from: what is known stays, what is new comes, words are not doubled."""
    folder = exporting.export(book, filed, tmp_path / "out")
    with book.writing() as db:
        person, revision = students.load(db, filed)
        students.save(db, msgspec.structs.replace(person, minutes=40, notes="Other notes"), revision)
    for _ in range(2):
        importing.take_in(book, folder)
    with book.reading() as db:
        person, _ = students.load(db, filed)
        (lesson, _), *rest = lessons.of_student(db, filed)
        assert rest == [] and lesson.said == "The trail pocket goes behind her"
        assert person.minutes == 40 and person.notes == "Other notes\nAnkle sprain"
    assert len(list((book.folder / "lessons" / folder.name).iterdir())) == 1


def test_a_lesson_whose_clip_is_gone_can_be_sent_all_the_same(book, filed, tmp_path):
    """Words, marks and document go; the number is made anew once the clip is there again."""
    (tmp_path / "range" / DAY / f"{MAREN}.mp4").rename(tmp_path / "gone.mp4")
    folder = exporting.export(book, filed, tmp_path / "out")
    assert not list(folder.rglob("*.mp4"))
    other = open_book(str(tmp_path / "other" / "book.sqlite"))
    (taken,) = importing.take_in(other, folder)
    assert (taken.lessons, taken.swings) == (1, 0)
    (document,) = (other.folder / "lessons").rglob(f"*{SUFFIX}")
    shutil.copy(tmp_path / "gone.mp4", document.parent / f"{MAREN}.mp4")
    assert file_swing(other, document) is None, "half the evidence makes no number"
    shutil.copy(DEMO / DAY / f"{MAREN}.mp4.evidence", document.parent)
    assert file_swing(other, document) is not None
    with other.reading() as db:
        assert len(swings.told_of(db, taken.student, "pelvis_shift", "top")) == 1
    other.close()


@pytest.fixture
def sent(book, filed, tmp_path):
    """A folder of sent lessons, and its manifest to be spoilt."""
    folder = exporting.export(book, filed, tmp_path / "out")
    return folder, json.loads((folder / exporting.MANIFEST).read_text())


def spoilt(manifest, **changes):
    """A manifest with a file's entry, or the lesson's folder, changed."""
    lesson = manifest["lessons"][0]
    if "folder" in changes:
        lesson["folder"] = changes["folder"]
    else:
        lesson["files"][0] |= changes
    return manifest


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"name": "../../outside.mp4"}, "no plain name"),
        ({"name": "/etc/passwd"}, "no plain name"),
        ({"name": ".hidden.mp4"}, "no plain name"),
        ({"name": "script.sh"}, "nothing that belongs"),
        ({"folder": ".."}, "no plain name"),
        ({"size": 1 << 50}, "larger than"),
        ({"size": 10}, "not what"),
        ({"sha256": "0" * 64}, "not what"),
        ({"name": "absent.mp4"}, "not there"),
    ],
)
def test_a_hostile_parcel_is_refused_and_leaves_nothing(sent, tmp_path, changes, words):
    folder, manifest = sent
    (folder / exporting.MANIFEST).write_text(json.dumps(spoilt(manifest, **changes)))
    packed = tmp_path / "hostile.zip"
    exporting.zipped(folder, packed)
    for number, source in enumerate((folder, packed)):
        other = open_book(str(tmp_path / f"other{number}" / "book.sqlite"))
        with pytest.raises(ParcelError, match=words):
            importing.take_in(other, source)
        with other.reading() as db:
            assert students.listed(db) == []
        left = [path for path in other.folder.rglob("*") if path.is_file() and "sqlite" not in path.name]
        assert left == [] and not (tmp_path / "outside.mp4").exists()
        other.close()


def test_links_doubles_newer_kinds_and_measures_nobody_knows_are_refused(sent, book, tmp_path):
    folder, manifest = sent
    raw = json.dumps(manifest)
    fresh = open_book(str(tmp_path / "fresh" / "book.sqlite"))
    plan = {"kneel": 99}
    for text, words in (
        (json.dumps(manifest | plan), "newer Kneel"),
        ("{", "damaged"),
        ("[" * 5000, "damaged"),
        (json.dumps(manifest | {"lessons": manifest["lessons"] * 2}), "two lessons"),
        (raw.replace('"name": "Maren Tolhurst"', '"name": " "'), "damaged"),
    ):
        (folder / exporting.MANIFEST).write_text(text)
        with pytest.raises(ParcelError, match=words):
            importing.take_in(fresh, folder)
    (folder / exporting.MANIFEST).write_text(raw)
    with zipfile.ZipFile(tmp_path / "twice.zip", "w") as packed:
        packed.writestr(f"a/{exporting.MANIFEST}", raw)
        with pytest.warns(UserWarning, match="Duplicate"):
            packed.writestr(f"a/{exporting.MANIFEST}", raw)
    with pytest.raises(ParcelError, match="twice"):
        importing.take_in(fresh, tmp_path / "twice.zip")
    clip = folder / DAY / f"{MAREN}.mp4"
    clip.rename(tmp_path / "real.mp4")
    clip.symlink_to(tmp_path / "real.mp4")
    with pytest.raises(ParcelError, match="link"):
        importing.take_in(fresh, folder)
    with pytest.raises(ParcelError, match="no zip"):
        importing.take_in(fresh, tmp_path / "real.mp4")
    with fresh.reading() as db:
        assert students.listed(db) == []
    fresh.close()


def test_a_document_that_names_a_file_elsewhere_is_refused(sent, tmp_path):
    """A plate's trace of the receiver's own would be read and could be sent on."""
    folder, manifest = sent
    path = folder / DAY / f"{MAREN}{SUFFIX}"
    content = json.loads(path.read_text())
    content["swing"]["takes"][0]["clip"]["path"] = "../../../etc/passwd"
    path.write_text(json.dumps(content))
    for file in manifest["lessons"][0]["files"]:
        if file["name"] == path.name:
            file |= {"size": path.stat().st_size, "sha256": exporting.hash_of(path)}
    (folder / exporting.MANIFEST).write_text(json.dumps(manifest))
    other = open_book(str(tmp_path / "other" / "book.sqlite"))
    with pytest.raises(ParcelError, match="elsewhere"):
        importing.take_in(other, folder)
    other.close()


# Deleting.


@pytest.mark.nothing_kept
def test_what_is_deleted_can_be_brought_back_and_then_is_gone_for_good(book, filed, tmp_path):
    """Rows, documents, cache, recovery, thumbnails and every copy; the clip outside stays and is named."""
    document = tmp_path / "range" / DAY / f"{MAREN}{SUFFIX}"
    clip = document.with_name(f"{MAREN}.mp4")
    kept = clip.parent / "kept" / f"{MAREN} page.pdf"
    kept.parent.mkdir()
    kept.write_bytes(b"%PDF")
    shelf = Shelf(clip)
    for key in shelf_keys(document, clip):
        shelf.put(key, b"x")
    save_glance(document, Glance(faults=1))
    thumb = thumb_file(clip, 40)
    thumb.parent.mkdir(parents=True)
    thumb.write_bytes(b"jpg")
    copies.daily(book, TODAY)
    with book.writing() as db:
        students.save(db, Student("Ebba Quill"), 0)
        purge.hide(db, "student", filed)
        assert [one.name for one in students.listed(db)] == ["Ebba Quill"]
        assert swings.by_document(db, document) is None
    assert file_swing(book, document) is None, "an open swing brings nobody back"
    assert purge.purge(book).students == 0, "what was deleted just now may still be wanted"
    with book.writing() as db:
        purge.show(db, "student", filed)
        assert students.load(db, filed)[0].name == "Maren Tolhurst"
        purge.hide(db, "student", filed)
    gone = purge.purge(book, [filed])
    assert (gone.students, gone.lessons, gone.clips_left) == (1, 1, (clip,))
    assert clip.is_file() and not document.exists() and not kept.exists() and not thumb.exists()
    assert load_glance(document) is None
    assert not list((tmp_path / "xdg_cache_home").rglob(f"*{token_of(document)}*"))
    assert not list((tmp_path / "xdg_cache_home" / "kneel" / "evidence").glob("*.bin"))
    for path in (book.path, book.path.with_name("book.sqlite-wal"), *copies.all_copies(book)):
        if path.exists():
            raw = path.read_bytes()
            for words in (b"Maren", b"maren", b"pocket", b"Ankle", MAREN.encode()):
                assert words not in raw, f"{words!r} is still in {path.name}"
    assert copies.check(book).troubles == () and purge.purge(book) == purge.Purged()


def shelf_keys(document, clip):
    shelf = Shelf(clip)
    kept_swing(document, shelf)
    return shelf.used


def test_a_lesson_in_kneels_own_folder_goes_with_its_clip(book, filed, tmp_path):
    folder = exporting.export(book, filed, tmp_path / "out")
    other = open_book(str(tmp_path / "other" / "book.sqlite"))
    (taken,) = importing.take_in(other, folder)
    with other.writing() as db:
        (lesson, _), *_ = lessons.of_student(db, taken.student)
        purge.hide(db, "lesson", lesson.id)
    assert purge.purge(other, [lesson.id]) == purge.Purged(0, 1, ())
    assert not list((other.folder / "lessons").rglob("*.mp4"))
    with other.reading() as db:
        assert [one.lessons for one in students.listed(db)] == [0]
    other.close()


# Killed.


@pytest.mark.parametrize(("kind", "at_sync"), [("saves", True), ("import", False), ("opening", True)])
def test_a_desk_killed_while_it_writes_loses_nothing(tmp_path, kind, at_sync):
    """One of each here; two hundred in ``make fuzz``."""
    if at_sync and shutil.which("strace") is None:
        pytest.skip("strace is not installed")
    lesson_folder(tmp_path)
    _, wrong = killed(kind, KINDS.index(kind), tmp_path, at_sync=at_sync)
    assert wrong == ""


# The command line.


def test_kneel_book(book, filed, tmp_path, monkeypatch, capsys):
    """Every command with what it says; what cannot be ends with one sentence and code 2."""
    monkeypatch.setenv("KNEEL_BOOK", str(book.path))
    assert main(["book", "backup", str(tmp_path / "copy.sqlite")]) == 0
    assert "1 student, 1 lesson and 1 swing" in capsys.readouterr().out
    out = tmp_path / "out"
    assert main(["book", "export", str(out), "--student", "maren tolhurst", "--day", DAY, "--zip"]) == 0
    monkeypatch.setenv("KNEEL_BOOK", f"sqlite:///{tmp_path}/second/book.sqlite")
    assert main(["book", "import", str(next(out.glob("maren-tolhurst-*.zip")))]) == 0
    assert "1 lesson, 1 swing taken in" in capsys.readouterr().out
    assert main(["book", "check"]) == 0 and "All is well" in capsys.readouterr().out
    assert main(["book", "restore", str(tmp_path / "copy.sqlite")]) == 0
    assert "again, as in" in capsys.readouterr().out
    for words, said in (
        (["export", str(out), "--student", "Nobody"], "no student called Nobody"),
        (["export", str(out), "--student", "Maren Tolhurst", "--day", "yesterday"], "takes a date"),
        (["export", str(out), "--day", DAY], "whose lesson"),
        (["import", str(tmp_path / "copy.sqlite")], "no zip"),
        (["restore", str(tmp_path / "absent")], "no file"),
    ):
        assert main(["book", *words]) == 2
        told = capsys.readouterr().err
        assert said in told and told.count("\n") == 1
    monkeypatch.setenv("KNEEL_BOOK", str(tmp_path / "nowhere.sqlite"))
    assert main(["book", "check"]) == 2 and "no Book" in capsys.readouterr().err
