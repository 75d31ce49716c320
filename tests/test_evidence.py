"""One way to the evidence: one document gives the same numbers on the desk and on the command line."""

from __future__ import annotations

import json
import shutil
from dataclasses import replace
from importlib.resources import files
from pathlib import Path

import msgspec
import numpy as np
import pytest

from kneel.cli.main import main
from kneel.demo.lesson import takes
from kneel.documents.swing_file import load_swing, save_swing
from kneel.evidence import METHOD, Shelf, Stretch, analysed, gather, known_evidence, marks, shelf, sidecar
from kneel.evidence.kept import kept_swing
from kneel.evidence.marks import _followed, _fresh, follow_marks, scale_of
from kneel.evidence.stood import stood_through
from kneel.footage import Clip, FrameReader
from kneel.footage.content import content_of
from kneel.model import Club, Mark, View
from kneel.motion.measures import REGISTRY, Domain
from kneel.vision import Source, installed, legs
from tests.desk import CLIP, PATIENCE_MS, saved
from tests.filed import DAYS

DATA = Path(str(files("kneel.demo") / "data"))
DEMO = sorted(DATA.glob("*/*.swing.json"))


def stretch_of(document):
    swing = load_swing(document)
    clip = Path(swing.clip.path)
    with Clip(clip) as opened:
        return swing, clip, Stretch.of(swing, opened.info, content_of(clip))


def told(session):
    """The numbers of the open swing as the command line's JSON has them."""
    analysis = session.analysis
    return (
        {n: (round(c.time_s, 5), round(c.sigma_s, 5)) for n, c in analysis.checkpoints.items()},
        {
            key: pairs
            for key, entry in REGISTRY.items()
            if (pairs := {n: told.pair for n in _where(analysis, entry) if (told := analysis.at(key, n))})
        },
    )


def _where(analysis, entry):
    names = {Domain.ONCE: [], Domain.SETUP: ["address"]}
    return names.get(entry.domain, list(analysis.checkpoints))


def on_the_command_line(document, capsys):
    assert main(["analyze", str(document), "--json", "-"]) == 0
    result = json.loads(capsys.readouterr().out)
    return (
        {n: (c["time_s"], c["sigma_s"]) for n, c in result["checkpoints"].items()},
        {
            key: {n: (v["value"], v["sigma"]) for n, v in measure["at"].items()}
            for key, measure in result["measures"].items()
            if "at" in measure
        },
    )


def agree(one, other):
    assert one[0] == other[0] and one[1].keys() == other[1].keys()
    for key, values in one[1].items():
        for name, pair in values.items():
            assert pair == pytest.approx(other[1][key][name], abs=6e-5), (key, name)


def on_the_desk(qtbot, window, document):
    session = window.on_desk
    window.open_path(document)
    qtbot.waitUntil(lambda: session.path == document, timeout=PATIENCE_MS)
    qtbot.waitUntil(
        lambda: not session.gathering.busy,
        timeout=PATIENCE_MS,
    )
    return told(session)


def test_the_demo_opens_with_the_same_numbers_everywhere(qtbot, window, tmp_path, capsys):
    """Seven swings, of every day: as the desk shows them at once, and as the command line does."""
    shutil.copytree(DATA, tmp_path / "demo")
    documents = sorted((tmp_path / "demo").glob("*/*.swing.json"))
    assert len(documents) == len(DEMO) == 36
    for document in documents[::5]:
        window.open_path(document)
        qtbot.waitUntil(lambda d=document: window.on_desk.path == d, timeout=PATIENCE_MS)
        assert not window.on_desk.gathering.following.busy and not window.on_desk.gathering.looking.busy
        agree(told(window.on_desk), on_the_command_line(document, capsys))


def test_marks_moved_on_the_desk_come_out_alike(qtbot, window, demo, capsys):
    """A mark moved, the view said to be another, marks taken away: followed anew, and the same for both."""
    document = demo / "oona-brackley-wedge.swing.json"
    session = window.on_desk
    on_the_desk(qtbot, window, document)
    frame = next(m.frame for m in session.swing.marks if m.point == "right_hip")
    session.cursor.go(frame)
    session.document.place(
        "right_hip", frame, *(session.analysis.tracks["right_hip"].xy[frame] + (3.0, 1.0)).tolist()
    )
    gone = session.swing.marks[0]
    session.document.change("Take away", session.swing.without_mark(gone.point, gone.frame))
    session.set("Set view", view=View.REAR)
    qtbot.waitUntil(lambda: not session.gathering.following.busy, timeout=PATIENCE_MS)
    saved(qtbot, session)
    shown = told(session)
    agree(shown, on_the_command_line(document, capsys))
    session.set("Set view", view=View.DOWN_THE_LINE)
    saved(qtbot, session)
    shown = told(session)
    assert "pelvis_shift" not in shown[1] and "pelvis_thrust" in shown[1]
    agree(shown, on_the_command_line(document, capsys))


@pytest.mark.nothing_kept
@pytest.mark.skipif(not installed(), reason="the body-landmark network is not installed")
def test_looking_comes_out_alike_and_is_kept(qtbot, window, demo, capsys, monkeypatch):
    """Marks and body model together; opened again without looking at a frame; stopped, it stays stopped."""
    document = demo / "priya-sandell-driver-line.swing.json"
    swing = load_swing(document)
    first = swing.marks[0].frame
    few = tuple(m for m in swing.marks if m.frame == first)
    short = swing.given(looked=True, marks=few, guessed=swing.guessed)
    save_swing(document, short.given(span=(max(first - 5, 0), first + 72)))
    session = window.on_desk
    window.open_path(document)
    qtbot.waitUntil(lambda: session.gathering.looking.busy, timeout=PATIENCE_MS)
    session.gathering.stop()
    session.set("Set club", club=Club.IRON)
    assert not session.gathering.looking.busy and not session.gathering.following.busy
    session.set("Use marks alone", looked=False)
    session.set("Look for the joints", looked=True)
    qtbot.waitUntil(
        lambda: bool(session.looked.sightings) and not session.gathering.busy, timeout=PATIENCE_MS
    )
    qtbot.waitUntil(lambda: not session.gathering.following.busy, timeout=PATIENCE_MS)
    saved(qtbot, session)
    shown = told(session)
    assert shown[1]["pelvis_thrust"]

    def no_frames(self, number):
        raise AssertionError("a frame was looked at though all of it is kept")

    monkeypatch.setattr(FrameReader, "_frame", no_frames)
    agree(shown, on_the_command_line(document, capsys))
    assert session.analysis.missing("pelvis_thrust") == ""
    agree(shown, on_the_desk(qtbot, window, document))


def test_what_was_followed_is_kept_whole_and_read_suspiciously(demo, tmp_path, monkeypatch):
    """The second time no frame is asked for; a broken piece is gathered anew, and gives the same numbers."""
    swing, clip, stretch = stretch_of(demo / "maren-tolhurst-iron-line.swing.json")
    few = swing.given(marks=tuple(m for m in swing.marks if m.point.endswith("ankle")))
    sidecar(clip).unlink()
    asked = []
    fresh = Stretch(
        stretch.path, stretch.content, stretch.first, stretch.times_s, stretch.height_px, asked.append
    )
    kept = tmp_path / "kept"
    parts = []
    first = gather(few, fresh, shelf=Shelf(folder=kept), part=parts.append)
    looked_at, pieces = len(asked), list(kept.glob("*.bin"))
    assert looked_at > 100 and parts[-1].followed.legs() == first.followed.legs()
    again = gather(few, fresh, shelf=Shelf(folder=kept))
    assert len(asked) == looked_at
    one, other = (analysed(few, stretch, e).tracks["left_ankle"] for e in (first, again))
    np.testing.assert_array_equal(one.xy, other.xy)
    for piece in pieces:
        piece.write_bytes(piece.read_bytes()[:-9])
    broken = gather(few, fresh, shelf=Shelf(folder=kept))
    assert len(asked) > looked_at
    np.testing.assert_array_equal(analysed(few, stretch, broken).tracks["left_ankle"].xy, one.xy)
    # One mark more asks for its own legs alone.
    looked_at = len(asked)
    more = few.with_mark(Mark("left_ankle", 5, *one.xy[5].tolist()))
    following = follow_marks(fresh, more.marks, Shelf(folder=kept))
    assert following.legs() == set(legs(more.marks, len(stretch)))
    assert len(asked) - looked_at < 2 * len(stretch)
    # What was followed from a mark that is gone is still there when it comes back.
    follow_marks(fresh, few.marks[:3], Shelf(folder=kept))
    looked_at = len(asked)
    assert follow_marks(fresh, more.marks, Shelf(folder=kept)).legs() == following.legs()
    assert len(asked) == looked_at
    monkeypatch.setattr(marks, "MOST_FORMER_LEGS", 2)
    moved = few.with_mark(Mark("left_ankle", 7, *one.xy[7].tolist()))
    follow_marks(fresh, moved.marks, Shelf(folder=kept))
    left = marks._known(
        Shelf(folder=kept), marks.legs_key(Shelf(), fresh, scale_of(moved.marks, fresh)), fresh
    )
    assert len(left) == len(legs(moved.marks, len(stretch))) + 2
    nothing = known_evidence(few, stretch, Shelf(folder=tmp_path / "empty"))
    assert nothing[1].legs() == set() and nothing[1].camera is None


@pytest.mark.nothing_kept
def test_gathering_stops_when_told(demo):
    swing, clip, stretch = stretch_of(demo / CLIP.replace(".mp4", ".swing.json"))
    sidecar(clip).unlink()
    keeps = Shelf()
    assert gather(swing, stretch, shelf=keeps, stopped=lambda: True).followed.legs() == set()
    assert known_evidence(swing, stretch, keeps)[1].legs() == set()
    without = gather(swing, stretch, shelf=keeps, sources=frozenset({Source.BODY}))
    assert not without.followed.links and not without.followed.spots


@pytest.mark.parametrize("document", DEMO[::7], ids=lambda p: p.name)
def test_the_demo_carries_what_today_s_kneel_follows(document, tmp_path):
    """Made by this method, of these clips, for all marks; legs followed anew come out as they lie there."""
    swing, clip, stretch = stretch_of(document)
    raw = msgspec.msgpack.decode(sidecar(clip).read_bytes())
    assert (raw["method"], raw["content"]) == (METHOD, content_of(clip)), "run make demo-followed"
    carried = known_evidence(swing, stretch, Shelf(clip))[1]
    assert carried.legs() >= set(legs(swing.marks, len(stretch)))
    few = [m for m in swing.marks if m.point in ("left_knee", "head")]
    wanted = legs(few, len(stretch))[:3]
    px_per_m = scale_of(swing.marks, stretch)
    anew = _followed(
        _fresh(stretch, wanted, px_per_m, lambda *_: None, lambda: False), wanted, frozenset(Source)
    )
    for leg in wanted:
        np.testing.assert_array_equal(anew.links[leg].step, carried.links[leg].step)


def test_the_demo_is_small_and_complete():
    assert len(DEMO) == len(list(takes())) == len(list(DATA.glob("*/*.evidence")))
    assert sum(p.stat().st_size for p in DATA.glob("*/*.evidence")) < 5 << 20


def test_a_clip_carries_its_pieces_only_for_the_method_they_were_made_by(tmp_path, monkeypatch):
    clip = tmp_path / "x.mp4"
    clip.write_bytes(b"clip")
    source = Shelf(folder=tmp_path / "a")
    source.put(source.key("legs", 1), b"piece")
    source.put(source.key("other", 2), b"else")
    assert source.carry(clip, "content") == sidecar(clip)
    elsewhere = Shelf(clip, folder=tmp_path / "b")
    assert elsewhere.get(elsewhere.key("legs", 1)) == b"piece"
    assert elsewhere.get(elsewhere.key("legs", 3)) is None
    elsewhere.put(elsewhere.key("legs", 1), b"more")
    assert list(elsewhere.pieces(elsewhere.key("legs", 1))) == [b"more", b"piece"]
    monkeypatch.setattr(shelf, "METHOD", METHOD + 1)
    newer = Shelf(clip, folder=tmp_path / "b")
    assert newer.get(newer.key("legs", 1)) is None
    sidecar(clip).write_bytes(b"\x00junk")
    assert Shelf(clip, folder=tmp_path / "b").get("x") is None
    (tmp_path / "file").write_bytes(b"")
    Shelf(folder=tmp_path / "file").put("x", b"nowhere to write is no harm")


def test_whether_a_camera_stood_is_told_by_the_pictures_and_never_guessed():
    """What stands round the golfer is the same; never with one that moved, or where address is not known."""
    name = "maren-tolhurst-iron"
    first, second = (kept_swing(DATA / day / f"{name}.swing.json") for day in (DAYS[0], DAYS[2]))
    other = kept_swing(DATA / DAYS[2] / "tobias-harrow-wood.swing.json")
    here, there, elsewhere = ((one.stretch, one.study) for one in (first, second, other))
    assert stood_through([here, here]) and not stood_through([here, there])
    assert not stood_through([here]) and not stood_through([here, elsewhere])
    moved = replace(here[1], camera=object())
    assert not stood_through([here, (here[0], moved)]), "one that moved did not stand"
    lost = replace(here[1], checkpoints={})
    assert not stood_through([here, (here[0], lost)])
