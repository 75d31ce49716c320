"""Points files and swing documents: what goes in comes out, and what is wrong is said in one sentence."""

from __future__ import annotations

import json

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kneel.book import atomic, swing_file
from kneel.book.points_csv import read_marks, read_points, write_points
from kneel.book.swing_file import load_swing, save_swing, swing_path
from kneel.model import (
    CHECKPOINTS,
    POINTS,
    ClipRef,
    Club,
    Hand,
    History,
    KnownLength,
    Mark,
    NoScale,
    PointsError,
    Stature,
    Swing,
    SwingFileError,
    TypedScale,
    View,
)

HEAD = "frame,time_s,point,x_px,y_px,sigma_px\n"
PX = st.floats(-50, 4000).map(lambda v: round(v, 3))

marks = st.builds(
    Mark, st.sampled_from(POINTS), st.integers(0, 900), PX, PX, st.floats(0.1, 40).map(lambda v: round(v, 3))
)
scales = st.one_of(
    st.builds(NoScale),
    st.builds(TypedScale, st.floats(0.01, 5)),
    st.builds(Stature, st.floats(100, 220)),
    st.builds(KnownLength, st.integers(0, 900), PX, PX, PX, PX, st.floats(1, 200)),
)
swings = st.builds(
    Swing,
    clip=st.just(ClipRef("clip.mp4", 900, 1280, 720, 120.0)),
    golfer=st.text(max_size=20),
    view=st.sampled_from(View),
    hand=st.sampled_from(Hand),
    club=st.sampled_from(Club),
    mirrored=st.sampled_from([None, True, False]),
    capture_rate=st.one_of(st.none(), st.floats(20, 1000)),
    scale=scales,
    marks=st.lists(marks, max_size=6).map(tuple),
    pinned=st.dictionaries(st.sampled_from(CHECKPOINTS), st.floats(0, 900)),
    guessed=st.lists(st.sampled_from(["view", "hand"]), unique=True).map(tuple),
    frame=st.integers(0, 900),
)


@given(swings)
def test_a_saved_swing_comes_back(tmp_path_factory, swing):
    folder = tmp_path_factory.mktemp("swing")
    swing = msgspec.structs.replace(
        swing, clip=msgspec.structs.replace(swing.clip, path=str(folder / "clip.mp4"))
    )
    path = folder / "a.swing.json"
    save_swing(path, swing)
    assert load_swing(path) == swing
    assert json.loads(path.read_text())["swing"]["clip"]["path"] == "clip.mp4"


@given(st.lists(st.tuples(st.integers(0, 2), swings), min_size=1, max_size=12))
def test_undo_and_redo_are_exact(steps):
    """Do then undo is the identity, undo then redo too, whatever the steps."""
    history, states = History(Swing()), [Swing()]
    for kind, swing in steps:
        if kind == 0 and len(states) > 1:
            before = history.now
            assert history.undo() and history.redo()
            assert history.now == before
        elif history.push("step", swing):
            states.append(swing)
        assert not history.push("nothing", history.now)
    for state in reversed(states[:-1]):
        assert history.undo()
        assert history.now == state
    assert not history.undo()
    for state in states[1:]:
        assert history.redo()
        assert history.now == state
    assert not history.redo()


@given(swings, marks)
def test_marks_replace_and_leave(swing, mark):
    placed = swing.with_mark(mark)
    assert [m for m in placed.marks if (m.point, m.frame) == (mark.point, mark.frame)] == [mark]
    gone = placed.without_mark(mark.point, mark.frame)
    assert not any((m.point, m.frame) == (mark.point, mark.frame) for m in gone.marks)
    assert "view" not in swing.given(view=View.REAR).guessed


def test_a_failed_save_leaves_the_old_file(tmp_path, monkeypatch):
    path = tmp_path / "a.swing.json"
    save_swing(path, Swing(golfer="first"))
    monkeypatch.setattr(
        atomic.os, "fsync", lambda handle: (_ for _ in ()).throw(OSError(28, "No space left"))
    )
    with pytest.raises(SwingFileError, match="last saved state stands"):
        save_swing(path, Swing(golfer="second"))
    monkeypatch.undo()
    assert load_swing(path).golfer == "first"
    assert [p.name for p in tmp_path.iterdir()] == ["a.swing.json"]


@pytest.mark.parametrize(
    "content",
    [
        "",
        "[]",
        "{",
        '{"kneel_swing": 1}',
        '{"kneel_swing": 99, "swing": {}}',
        '{"kneel_swing": 1, "swing": {"view": "sideways"}}',
        '{"kneel_swing": 1, "swing": {"unheard_of": 1}}',
        '{"kneel_swing": 1, "swing": {"marks": [{"point": "nose", "frame": 1, "x": 1, "y": 1}]}}',
        '{"kneel_swing": 1, "swing": {"marks": [{"point": "head", "frame": -1, "x": 1, "y": 1}]}}',
        '{"kneel_swing": 1, "swing": {"pinned": {"noon": 4}}}',
        '{"kneel_swing": 0, "swing": {}}',
    ],
)
def test_broken_documents_are_refused_and_left_alone(tmp_path, content):
    path = tmp_path / "x.swing.json"
    path.write_text(content)
    with pytest.raises(SwingFileError) as caught:
        load_swing(path)
    assert "\n" not in str(caught.value)
    assert path.read_text() == content


def test_documents_lie_beside_their_clip(tmp_path):
    assert swing_path(tmp_path / "a.b.mp4").name == "a.b.swing.json"
    with pytest.raises(SwingFileError):
        load_swing(tmp_path / "absent.swing.json")
    assert swing_file.VERSION >= 1


def test_points_round_trip(tmp_path):
    rows = [
        (f, f / 120, p, 10.5 + f, 20.25, 1.5 if f % 2 else None)
        for f in (3, 4, 9)
        for p in ("grip", "left_hip")
    ]
    path = tmp_path / "p.csv"
    write_points(path, rows)
    read = read_points(path)
    assert read.frames.tolist() == [3, 4, 9]
    np.testing.assert_allclose(read.xy["grip"][:, 0], [13.5, 14.5, 19.5])
    assert np.isnan(read.sigma["left_hip"]).tolist() == [False, True, False]
    assert len(read_marks(path)) == 6


def test_points_may_come_from_a_spreadsheet(tmp_path):
    """A byte order mark, spaces, Windows line ends and columns in another order are no hindrance."""
    path = tmp_path / "p.csv"
    text = "\ufeffpoint , frame,x_px,y_px,time_s\r\n grip,0,1,2,0.0\r\ngrip,1,2,2,0.01\r\n"
    path.write_bytes(text.encode())
    assert read_points(path).xy["grip"].tolist() == [[1, 2], [2, 2]]


@pytest.mark.parametrize(
    ("content", "about"),
    [
        ("", "empty"),
        ("frame,time_s,point,x_px\n0,0,grip,1\n", "y_px"),
        (HEAD + "0,0,grip,nan,1,\n1,0.1,grip,1,1,\n", "x_px"),
        (HEAD + "0,0,grip,1,inf,\n1,0.1,grip,1,1,\n", "y_px"),
        (HEAD + "0,0,grip,one,1,\n", "x_px"),
        (HEAD + "0,0,nose,1,1,\n", "nose"),
        (HEAD + "0,0,grip,1,1,\n0,0,grip,2,2,\n1,1,grip,1,1,\n", "twice"),
        (HEAD + "0,0,grip,1,1,\n1,0,grip,1,1,\n", "time"),
        (HEAD + "0,0,grip,1,1,\n0,0.5,head,1,1,\n1,1,grip,1,1,\n", "two different times"),
        (HEAD + "0,0,grip,1,1,\n", "fewer than two"),
        (HEAD + "0.5,0,grip,1,1,\n", "whole number"),
        (HEAD + "-1,0,grip,1,1,\n", "whole number"),
        (HEAD + "0,0,grip,1,1,0\n", "sigma_px"),
        (HEAD + "0,0,grip,1e9,1,\n", "outside"),
        (HEAD + '0,0,"grip,1,1,\n', "CSV"),
        (HEAD + "0,0,grip,1\n1,0,grip,1\n", "y_px"),
        ("\x00\x01\x02", "column"),
    ],
)
def test_bad_points_are_named(tmp_path, content, about):
    path = tmp_path / "p.csv"
    path.write_text(content)
    with pytest.raises(PointsError, match=about) as caught:
        read_points(path)
    assert "\n" not in str(caught.value)


def test_points_that_are_no_text(tmp_path):
    path = tmp_path / "p.csv"
    path.write_bytes(b"\xff\xfe\x00frame")
    with pytest.raises(PointsError, match="UTF-8"):
        read_points(path)
    with pytest.raises(PointsError, match="no file"):
        read_points(tmp_path / "absent.csv")
