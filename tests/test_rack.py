"""The rack: students, sets, two cameras, drops, a watched folder, taking off"""

from __future__ import annotations

import datetime
import os
import shutil
import time
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt

from kneel.book import open_book
from kneel.book.repository import students
from kneel.compare.views import judge_views
from kneel.desk.places.bench.rack import sets, watching
from kneel.desk.places.bench.rack.card import card_words
from kneel.desk.places.bench.rack.entries import RackEntry, entries_of
from kneel.desk.places.bench.rack.rows import Card, Heading, Others, SetRow, TakenOff, arranged
from kneel.desk.shell.files import WATCHED
from kneel.desk.swing import intake
from kneel.desk.widgets.entry import Entry
from kneel.documents.finding import documents_of
from kneel.documents.glance_file import Glance, load_glance, save_glance
from kneel.documents.swing_file import load_swing, save_swing
from kneel.evidence.kept import kept_swing
from kneel.judge import at_hand
from kneel.model import Club, Hand, Mark, Stature, Student, SwingFileError, View
from tests.desk import CLIP, PATIENCE_MS, open_clip, press, saved

OTHER = "lorcan-mead-iron.mp4"


def entry(name: str, golfer: str = "A", view: View = View.FACE_ON, club: Club = Club.IRON) -> RackEntry:
    return RackEntry(Path(f"/x/{name}.mp4"), Path(f"/x/{name}.swing.json"), True, golfer, view, club)


def rows_of(window, kind):
    return [row for row in window.bench.rack.model.rows if isinstance(row, kind)]


def test_swings_stand_under_their_students():
    """The student on the desk, and whom nobody has named; the others are one row. Two cameras go together."""
    line = View.DOWN_THE_LINE
    entries = [
        entry("b-iron", "B"),
        entry("a-iron"),
        entry("a-iron-line", view=line),
        entry("a-wood", club=Club.WOOD),
        entry("c", ""),
    ]
    told = arranged(entries, "A", (), frozenset(), 2)
    names = [(row.golfer, row.count, row.open) for row in told if isinstance(row, Heading)]
    assert names == [("A", 3, True), ("", 1, False)]
    cards = [tuple(one.clip.stem for one in row.entries) for row in told if isinstance(row, Card)]
    assert cards == [("a-iron", "a-iron-line"), ("a-wood",)]
    assert told[-2:] == (Others(1, False), TakenOff(2))
    opened = arranged(entries, "A", (), frozenset({"B"}), 0, others=True)
    assert ("b-iron",) in [
        tuple(one.clip.stem for one in row.entries) for row in opened if isinstance(row, Card)
    ]
    everyone = arranged(entries, "", (), frozenset(), 0)
    assert [row.golfer for row in everyone if isinstance(row, Heading)] == ["", "A", "B"]


def test_a_lessons_rack_shows_that_lesson_alone():
    """Another day of the same student in one folder is another lesson."""
    day, other = datetime.date(2026, 11, 3), datetime.date(2026, 9, 29)
    entries = [replace(entry("a1"), day=day), replace(entry("a2"), day=other), entry("a3")]
    told = arranged(entries, "A", (), frozenset(), 0, day=day)
    assert [one.clip.stem for row in told if isinstance(row, Card) for one in row.entries] == ["a1", "a3"]
    assert told[-1] == Others(1, False)


def test_the_set_stands_above_the_clips_of_one_view_and_club():
    entries = [entry(f"a{k}") for k in range(3)] + [entry("line", view=View.DOWN_THE_LINE)]
    documents = tuple(one.document for one in entries[:3])
    told = sets.SetTold(
        View.FACE_ON, Club.IRON, entries[0].kind, documents, "Sway", 2, -5.04, 0.61, 1.23, "cm", documents[1]
    )
    fine = replace(told, title="", unsure=True)
    assert (SetRow(fine).first, SetRow(replace(fine, unsure=False)).first) == (
        "3 swings: cannot be told",
        "3 swings: nothing to mend",
    )
    rows = arranged(entries, "A", (told,), frozenset(), 0)
    assert [type(row) for row in rows] == [Heading, SetRow, Card, Card, Card, Card]
    (row,) = [row for row in rows if isinstance(row, SetRow)]
    assert (row.title, row.first) == ("Face-on · Iron", "Sway in 2 of 3")
    assert row.second == "−5.0 ± 0.6 cm, spread 1.2"


def test_a_card_says_from_where_it_was_judged_and_what_cannot_be_told(demo):
    """A view that somebody has said stays; nobody's swing, and a fault that may well be, are not fine."""
    document = demo / "maren-tolhurst-iron-line.swing.json"
    known = kept_swing(document)
    reading = judge_views(known.studies, at_hand()[0].school("centred"), known.swing, at_hand()[0])
    glance = sets.glance_of(known.study, reading)
    assert glance.view is View.DOWN_THE_LINE and glance.unsure is (reading.untold is not None)
    for guessed, view in ((("view",), View.DOWN_THE_LINE), ((), View.FACE_ON)):
        save_swing(document, known.swing.given(view=View.FACE_ON, guessed=guessed))
        save_glance(document, glance)
        (one,) = [one for one in entries_of(demo) if one.document == document]
        assert one.view is view
    said = {
        card_words(replace(one, glance=told), "")[1]
        for told in (
            sets.glance_of(None, None),
            sets.glance_of(known.study, replace(reading, findings=())),
            Glance(unsure=True),
        )
    }
    assert said == {"cannot be told"}
    assert card_words(replace(one, glance=Glance()), "")[1] == "nothing to mend"
    assert card_words(replace(one, glance=Glance(watches=1, unsure=True)), "")[1] == "1 to watch"


@pytest.fixture
def five(demo):
    """One student with the swings of three, face-on with one club: a set."""
    names = ["maren-tolhurst-iron", "lorcan-mead-iron", "idris-vale-iron"]
    for other in demo.glob("*"):
        if not any(other.name.startswith(f"{name}.") for name in names):
            other.unlink()
    for name in names:
        path = demo / f"{name}.swing.json"
        save_swing(path, load_swing(path).given(golfer="Maren Tolhurst", school="centred"))
    return demo


def test_swings_of_one_view_and_club_are_read_together_beside_the_desk(qtbot, window, five):
    """Judged in another process; choosing the set goes to the typical swing; what each shows is kept."""
    open_clip(qtbot, window, five / CLIP)
    window.bench.rack.others.soon.setInterval(100)
    window.bench.rack.refresh()
    qtbot.waitUntil(lambda: bool(rows_of(window, SetRow)), timeout=PATIENCE_MS)
    (row,) = rows_of(window, SetRow)
    told = row.told
    assert told.count == 3 and told.title and 1 <= told.shows <= 3
    values = {}
    for path in told.documents:
        assert load_glance(path).address is not None
        window.open_path(path)
        qtbot.waitUntil(lambda path=path: window.on_desk.path == path, timeout=PATIENCE_MS)
        finding = next(f for f in window.on_desk.numbers.reading.findings if f.fault.title == told.title)
        values[path] = window.on_desk.analysis.at(finding.measure, finding.fault.check[0].at[0])
    rack = window.bench.rack
    (row,) = rows_of(window, SetRow)
    number = rack.model.rows.index(row)
    rack.list.setCurrentIndex(rack.model.index(number, 0))
    qtbot.keyClick(rack.list, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.on_desk.path == told.typical, timeout=PATIENCE_MS)


def visible(folder):
    """The files of a folder but those that saving makes for a moment."""
    return sorted(p.name for p in folder.iterdir() if not p.name.startswith("."))


def test_a_swing_is_taken_off_the_rack_and_put_back(qtbot, window, demo):
    """The files stay; undo puts it back, before it takes back a step of the document."""
    open_clip(qtbot, window, demo / CLIP)
    rack, session = window.bench.rack, window.on_desk
    qtbot.waitUntil(lambda: len(rack.entries) > 10, timeout=PATIENCE_MS)
    count, files = len(rack.entries), visible(demo)
    session.set("Set club", club=Club.WEDGE)
    qtbot.waitUntil(lambda: rack.list.currentIndex().isValid(), timeout=PATIENCE_MS)
    rack.list.setFocus()
    qtbot.keyClick(rack.list, Qt.Key.Key_Delete)
    qtbot.waitUntil(lambda: len(rack.entries) < count, timeout=PATIENCE_MS)
    gone = count - len(rack.entries)
    assert rows_of(window, TakenOff) == [TakenOff(gone)] and visible(demo)[:5] == files[:5]
    press(qtbot, window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: len(rack.entries) == count, timeout=PATIENCE_MS)
    assert session.swing.club is Club.WEDGE and not rows_of(window, TakenOff)
    press(qtbot, window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert session.swing.club is Club.IRON


def test_several_files_and_a_folder_are_dropped(qtbot, window, demo, tmp_path):
    elsewhere = tmp_path / "elsewhere"
    elsewhere.mkdir()
    far = elsewhere / "far.mp4"
    shutil.copyfile(demo / OTHER, far)
    window.open_several([demo / CLIP, far])
    rack = window.bench.rack
    qtbot.waitUntil(lambda: window.on_desk.store is not None, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: far in {one.clip for one in rack.entries}, timeout=PATIENCE_MS)
    assert window.on_desk.store.info.path == demo / CLIP and rack.folder == demo
    window.open_path(far)
    qtbot.waitUntil(lambda: window.on_desk.store.info.path == far, timeout=PATIENCE_MS)
    assert rack.folder == demo, "a clip that was put on this rack stays on it"
    window.open_several([elsewhere])
    qtbot.waitUntil(lambda: rack.folder == elsewhere, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: [one.clip for one in rack.entries] == [far], timeout=PATIENCE_MS)
    empty = tmp_path / "empty"
    empty.mkdir()
    window.open_several([empty])
    qtbot.waitUntil(lambda: "no clips in empty" in window.status_bar.text(), timeout=PATIENCE_MS)


SPANS = [(0, 40), (41, 90), (91, 130)]


def dropped(folder, monkeypatch, looking=lambda: SPANS):
    """The document of a long clip that was dropped, in which three swings are seen, and its swing."""
    monkeypatch.setattr(intake, "parts_of", lambda *_, **__: looking())
    clip = folder / OTHER
    for path in documents_of(clip):
        path.unlink()
    (document,) = intake.write_down([clip], "Maren Tolhurst")
    return document, load_swing(document)


def test_a_dropped_clip_of_several_swings_gets_a_document_for_each(demo, monkeypatch):
    """With what is known of the first; once, and none where somebody has worked on it or the drop is left."""
    document, swing = dropped(demo, monkeypatch)
    assert intake.parted(document, stopped=lambda: True) == [document] == documents_of(demo / OTHER)
    documents = intake.parted(document)
    assert documents == documents_of(demo / OTHER) and documents[0] == document
    several = [load_swing(path) for path in documents]
    assert [one.span for one in several] == SPANS
    assert {(one.golfer, one.guessed, one.clip) for one in several} == {
        ("Maren Tolhurst", swing.guessed, swing.clip)
    }
    assert swing.id in {one.id for one in several} and len({one.id for one in several}) == 3
    save_swing(document, swing)
    for path in documents:
        assert intake.parted(path) == [path]
    assert documents_of(demo / OTHER) == sorted(documents, key=lambda one: load_swing(one).take.start)
    for path in documents[1:]:
        path.unlink()

    def named_meanwhile():
        intake.name(document, "Ida Moss")
        return SPANS

    save_swing(document, swing.given(golfer="", guessed=swing.guessed))
    monkeypatch.setattr(intake, "parts_of", lambda *_, **__: named_meanwhile())
    assert {load_swing(path).golfer for path in intake.parted(document)} == {"Ida Moss"}
    for path in documents[1:]:
        path.unlink()
    save_swing(document, swing)
    room = iter([True, False])

    def save_until_full(path, swing):
        if not next(room):
            raise SwingFileError("The disk is full.")
        save_swing(path, swing)

    def no_room(keeper, swing):
        raise SwingFileError("The disk is full.")

    for name, put in (("save_swing", save_until_full), ("Keeper.save", no_room)):
        with monkeypatch.context() as full:
            full.setattr(f"kneel.desk.swing.intake.{name}", put)
            with pytest.raises(SwingFileError):
                intake.parted(document)
        assert documents_of(demo / OTHER) == [document], "all swings of a clip are written down, or none"
    assert documents_of(demo / OTHER) == [document] and load_swing(document).span is None
    save_swing(document, swing.with_mark(Mark("head", 3, 10.0, 20.0)))
    assert intake.parted(document) == documents_of(demo / OTHER) == [document]


def test_the_swings_of_a_dropped_clip_are_read_one_by_one(qtbot, window, demo, monkeypatch):
    """Each is told as soon as it is written down, and stands with what was dropped; others are left alone."""
    document, _ = dropped(demo, monkeypatch)
    read = []
    monkeypatch.setattr(sets, "whole_swing", lambda path, stopped: read.append(path))
    told = []
    beside = [demo / "maren-tolhurst-iron.swing.json"]
    shown = sets.read_lesson([document, *beside], "centred", [document], part=told.append)
    documents = documents_of(demo / OTHER)
    assert read == documents and len(documents) == 3 and told == [tuple(documents[1:])]
    assert set(shown.glances) == {*beside}
    open_clip(qtbot, window, demo / CLIP)
    rack = window.bench.rack
    rack.take_together([document, window.on_desk.path])
    rack.others.came.emit(told[0])
    assert rack.dropped_with_open() == {*documents, window.on_desk.path}


def test_a_clip_comes_by_itself_once_it_is_whole(qtbot, window, demo, tmp_path, monkeypatch):
    """It grows, stands still, and opens; what is no film, or still being written, is not taken."""
    monkeypatch.setattr(watching, "STILL_S", 0.4)
    monkeypatch.setattr(watching.Watching, "LOOK_EVERY_MS", 50, raising=False)
    folder = tmp_path / "camera"
    folder.mkdir()
    shutil.copyfile(demo / OTHER, folder / "old.mp4")
    window.files.watch(folder)
    came: list[Path] = []
    window.bench.rack.watching.came.connect(came.append)
    whole = (demo / CLIP).read_bytes()
    (folder / "no-film.mp4").write_text("no film")
    with (folder / "new.mp4").open("wb") as file:
        for k in range(4):
            file.write(whole[k * len(whole) // 4 : (k + 1) * len(whole) // 4])
            file.flush()
            os.fsync(file.fileno())
            qtbot.wait(250)
            assert came == []
    qtbot.waitUntil(lambda: came == [folder / "new.mp4"], timeout=PATIENCE_MS)
    on_desk = window.on_desk
    qtbot.waitUntil(
        lambda: on_desk.store is not None and on_desk.store.info.path == folder / "new.mp4",
        timeout=PATIENCE_MS,
    )
    window.files.browse_watched()
    assert window.bench.rack.watching.folder is None and "no longer watched" in window.status_bar.text()


def test_a_watched_folder_is_watched_again_and_its_clips_come_under_their_student(
    qtbot, window, demo, tmp_path, monkeypatch
):
    """Remembered over a start, what came meanwhile told; a clip of the same half hour is the student's on the
    desk, one of another time is nobody's yet.
    """
    monkeypatch.setattr(watching, "STILL_S", 0.1)
    folder = tmp_path / "camera"
    folder.mkdir()
    window.files.watch(folder)
    window.files.close_down()
    window.bench.rack.watching.watch(None)
    time.sleep(0.05)
    shutil.copyfile(demo / OTHER, folder / "meanwhile.mp4")
    window.files.watch_again()
    rack = window.bench.rack
    qtbot.waitUntil(lambda: "One new clip came" in window.status_bar.text(), timeout=PATIENCE_MS)
    assert rack.watching.folder == folder
    open_clip(qtbot, window, demo / CLIP)
    now = time.time()
    os.utime(demo / CLIP, (now, now))
    golfer = window.on_desk.swing.golfer
    assert golfer
    cases = ((OTHER, "soon.mp4", 60.0, golfer), ("priya-sandell-driver.mp4", "late.mp4", 7200.0, ""))
    for film, name, age_s, whose in cases:
        open_clip(qtbot, window, demo / CLIP)
        qtbot.waitUntil(lambda: window.on_desk.store.info.path == demo / CLIP, timeout=PATIENCE_MS)
        shutil.copyfile(demo / film, folder / name)
        os.utime(folder / name, (now - age_s, now - age_s))
        qtbot.waitUntil(lambda n=name: window.on_desk.store.info.path == folder / n, timeout=PATIENCE_MS)
        assert window.on_desk.swing.golfer == whose
    window.files.browse_watched()
    assert rack.watching.folder is None and not window.files._context.settings.value(WATCHED)


def test_a_name_known_in_the_book_brings_height_and_hand(qtbot, window, demo, tmp_path):
    book = open_book()
    with book.writing() as db:
        students.save(db, Student("Idris Vale", hand=Hand.LEFT, stature_cm=181.0), 0)
    book.close()
    bare = demo / "bare.mp4"
    shutil.copyfile(demo / OTHER, bare)
    with bare.open("ab") as file:
        file.write(b"\0\0\0\x08free")
    open_clip(qtbot, window, bare)
    session = window.on_desk
    qtbot.waitUntil(lambda: len(window.bench.rack.entries) > 10, timeout=PATIENCE_MS)
    assert session.swing.golfer == "" and "hand" in session.swing.guessed
    press(qtbot, window.bench.stage, Qt.Key.Key_G, Qt.KeyboardModifier.ControlModifier)
    (field,) = [f for f in window.findChildren(Entry) if f.isVisible()]
    qtbot.keyClicks(field.field, "Idris Vale")
    qtbot.keyClick(field.field, Qt.Key.Key_Return)
    assert session.swing.golfer == "Idris Vale"
    qtbot.waitUntil(lambda: session.swing.hand is Hand.LEFT, timeout=PATIENCE_MS)
    assert session.swing.scale == Stature(181.0) and not {"hand", "scale"} & set(session.swing.guessed)
    assert window.frame.title.text().startswith("Idris Vale")
    saved(qtbot, session)
    assert {one.golfer for one in entries_of(demo) if one.clip == bare} == {"Idris Vale"}
