"""The shelf of references: what ships, what is put on it by leave, and that it goes with its student."""

from __future__ import annotations

import stat
from pathlib import Path
from types import SimpleNamespace

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kneel.book import open_book
from kneel.book.index.made import note_made
from kneel.book.maintenance import purge
from kneel.book.repository import students
from kneel.disk import free_path
from kneel.documents.swing_file import load_swing
from kneel.evidence.kept import kept_swing
from kneel.judge import Verdict, known
from kneel.model import Club, Hand, Override, Swing, SwingFileError, View
from kneel.practice.judging import judge_swing
from kneel.references.card import FILE, LONGEST, SIMULATED, Card, read_card, write_card
from kneel.references.fitting import fitting, shown_by
from kneel.references.shelf import Reference, listed, put_on, take_off
from tests.filed import filed_in


@pytest.fixture(scope="module")
def shelf(tmp_path_factory):
    """What ships, as it lies for a new user."""
    folder = tmp_path_factory.mktemp("shelf") / "references"
    return folder, listed(folder)


def test_six_of_each_view_ship_and_show_what_they_say(shelf):
    """Clips that open with their numbers; nothing at work, and clear of what their cards tell."""
    folder, found = shelf
    views = [one.swing.view for one in found]
    assert {view: views.count(view) for view in View if view in views} == {
        View.FACE_ON: 6,
        View.DOWN_THE_LINE: 6,
    }
    assert sum(path.stat().st_size for path in folder.rglob("*")) < 6e6
    for one in found:
        kept = kept_swing(one.document)
        assert kept.whole and kept.swing.golfer == "" and one.card.leave == SIMULATED
        reading = judge_swing(kept.study, known().schools[one.swing.school], kept.swing, known())
        assert not [finding.key for finding in reading.findings if finding.verdict.at_work]
        told = {f.key: [w.judged.verdict for w in f.weighed if w.judged] for f in reading.findings}
        assert one.card.shows == shown_by(reading) and len(one.card.shows) > 8
        assert all(Verdict.CLEAR in told[key] for key in one.card.shows)
    line = [one.card.shows for one in found if one.swing.view is View.DOWN_THE_LINE]
    assert all("early_extension" in shows for shows in line)


def test_the_one_that_shows_it_comes_first_then_the_most_alike(shelf):
    _, found = shelf
    best = fitting(found, View.FACE_ON, "sway", Hand.LEFT, Club.IRON, 178.0)
    assert len(best) == 6 and best[0].swing.hand is Hand.LEFT and "sway" in best[0].card.shows
    lacking = Reference(best[0].document, best[0].swing, Card("Slides", ("hang_back",), stature_cm=178.0))
    again = fitting([lacking, *best[1:]], View.FACE_ON, "sway", Hand.LEFT, Club.IRON, 178.0)
    assert again[-1] is lacking, "what does not show it comes after all that do"
    small = fitting(found, View.FACE_ON, None, Hand.RIGHT, Club.WEDGE, 150.0)[0]
    assert small.swing.club is Club.WEDGE and small.card.stature_cm == 156
    assert fitting(found, View.REAR, "sway", Hand.RIGHT, Club.IRON, 0.0) == []


def test_hand_club_and_build_each_count_as_far_as_they_differ(shelf):
    """Another hand as much as the longest way through the bag, or 40 cm; an unknown build as half of that."""
    one = next(one for one in shelf[1] if one.swing.view is View.FACE_ON)
    clubs = list(Club)

    def like(hand: Hand, club: Club, stature_cm: float) -> Reference:
        swing = one.swing.given(view=View.FACE_ON, hand=hand, club=club)
        return Reference(one.document, swing, Card("One", (), stature_cm=stature_cm))

    nearest_first = [
        like(Hand.RIGHT, clubs[0], 170.0),
        like(Hand.RIGHT, clubs[0], 176.0),
        like(Hand.RIGHT, clubs[1], 170.0),
        like(Hand.RIGHT, clubs[1], 164.0),
        like(Hand.RIGHT, clubs[0], 0.0),
        like(Hand.LEFT, clubs[0], 170.0),
        like(Hand.RIGHT, clubs[-1], 178.0),
        like(Hand.LEFT, clubs[-1], 170.0),
    ]
    assert fitting(nearest_first[::-1], View.FACE_ON, None, Hand.RIGHT, clubs[0], 170.0) == nearest_first


@pytest.mark.parametrize(
    ("verdict", "told", "shows"),
    [
        (Verdict.CLEAR, ["clear", None], True),
        (Verdict.UNKNOWN, ["clear", None], True),
        (Verdict.UNKNOWN, ["clear", "watch"], False),
        (Verdict.UNKNOWN, [None], False),
        (Verdict.WATCH, ["clear"], False),
    ],
)
def test_a_reference_shows_what_all_that_is_told_of_is_clear(verdict, told, shows):
    """What is not told of a fault takes nothing away; where nothing is told, nothing is shown."""
    weighed = [SimpleNamespace(judged=one and SimpleNamespace(verdict=Verdict(one))) for one in told]
    finding = SimpleNamespace(key="sway", verdict=verdict, weighed=weighed)
    assert shown_by(SimpleNamespace(findings=[finding])) == (("sway",) if shows else ())


def test_one_is_put_on_without_its_name_and_goes_where_the_student_does(tmp_path):
    """Copied, so that the shelf holds it; noted, so that deleting takes every file of it along."""
    book = open_book(str(tmp_path / "book" / "book.sqlite"))
    (document,) = filed_in(book, tmp_path / "range", ("2026-11-03",))
    swing, folder = load_swing(document), tmp_path / "shelf"
    swing = swing.given(overrides=(Override("sway", "clear", "Maren asked"),), complaint="Maren’s back")
    card = Card("Kept with her leave", ("slide",), "Maren Tolhurst, 3 November 2026", 168.0)
    put = put_on(swing, card, folder, note=lambda path: note_made(book, path, document))
    (again,) = [one for one in listed(folder) if one.card.leave != SIMULATED]
    assert again.card == put.card == card and again.swing.golfer == ""
    assert "Maren" not in put.document.read_text() and "sway" not in put.document.read_text()
    assert stat.S_IMODE(put.document.parent.stat().st_mode) == 0o700
    namesake = put_on(swing, card, folder)
    assert put.document.parent.name == "kept-with-her-leave" != namesake.document.parent.name
    take_off(namesake)
    kept, source = kept_swing(put.document), kept_swing(document)
    assert kept.swing.marks == swing.marks and kept.study.at("pelvis_shift", "top").pair == pytest.approx(
        source.study.at("pelvis_shift", "top").pair
    )
    with book.writing() as db:
        key = students.student_id(db, "Maren Tolhurst")
        purge.hide(db, "student", key)
    purge.purge(book, [key])
    book.close()
    assert not any(path.is_file() for path in put.document.parent.iterdir())
    assert all(one.card.leave == SIMULATED for one in listed(folder))


def test_taken_off_stays_off_and_what_is_broken_is_left_out(tmp_path):
    folder = tmp_path / "shelf"
    found = listed(folder)
    take_off(found[0])
    for broken, raw in ((found[1], b"{"), (found[2], b'{"kneel_reference": 2, "reference": {"title": "x"}}')):
        (broken.document.parent / FILE).write_bytes(raw)
    found[3].document.write_bytes(b"[]")
    left = listed(folder)
    assert [one.document for one in left] == [one.document for one in found[4:]]
    assert (found[1].document.parent / FILE).read_bytes() == b"{", "it is untouched"
    with pytest.raises(SwingFileError, match="newer Kneel"):
        read_card(found[2].document.parent)
    with pytest.raises(SwingFileError, match="without a clip"):
        put_on(Swing(), Card("x"), folder)
    before, swing = sorted(folder.rglob("*")), load_swing(left[0].document)
    missing = swing.given(clip=msgspec.structs.replace(swing.clip, path=str(tmp_path / "gone.mp4")))
    with pytest.raises(SwingFileError, match="nothing was lost"):
        put_on(missing, Card("Cannot be"), folder)
    assert sorted(folder.rglob("*")) == before, "nothing is left behind"


def test_two_desks_that_put_one_on_at_once_have_a_folder_each(tmp_path, monkeypatch):
    """The other makes its folder after this one has looked for a name, and before it makes its own."""
    folder = tmp_path / "shelf"
    swing, theirs = load_swing(listed(folder)[0].document), folder / "cannot-be" / "theirs"

    def looked(*how):
        found = free_path(*how)
        if not theirs.exists():
            theirs.parent.mkdir()
            theirs.write_bytes(b"theirs")
        return found

    monkeypatch.setattr("kneel.references.shelf.free_path", looked)
    mine = put_on(swing, Card("Cannot be"), folder)
    assert mine.document.parent.name == "cannot-be-2" and theirs.read_bytes() == b"theirs"


@given(st.text(max_size=LONGEST), st.text(max_size=LONGEST), st.lists(st.text(max_size=9), max_size=4))
def test_a_card_is_read_as_it_was_written(tmp_path_factory, title, leave, shows):
    folder: Path = tmp_path_factory.getbasetemp()
    if not (title.strip() and leave.strip()):
        with pytest.raises(ValueError, match="a reference"):
            Card(title, tuple(shows), leave)
        return
    card = Card(title, tuple(shows), leave, 171.5)
    write_card(folder, card)
    assert read_card(folder) == card
