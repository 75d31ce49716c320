"""Swing documents: what goes in comes out, what cannot be is refused, and each clip has its own."""

from __future__ import annotations

import json
import shutil

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kneel.disk import atomic
from kneel.documents.finding import clip_of, documents_by_clip, documents_of, free_document
from kneel.documents.sight_file import load_sight, save_sight
from kneel.documents.swing_file import load_swing, save_swing
from kneel.footage.content import content_of
from kneel.model import (
    CHECKPOINTS,
    POINTS,
    Ball,
    ClipRef,
    Club,
    Drawn,
    FileRef,
    Hand,
    History,
    Kind,
    KnownLength,
    Mark,
    Near,
    NoScale,
    Override,
    OwnCheckpoint,
    Sight,
    Stature,
    Swing,
    SwingFileError,
    Take,
    TypedScale,
    TypedValue,
    View,
)
from kneel.model.two_takes import turned, turned_back, with_second, without_second

PX = st.floats(-50, 4000).map(lambda v: round(v, 3))
FRAME = st.integers(0, 899)
WORDS = st.text(max_size=12)

marks = st.builds(Mark, st.sampled_from(POINTS), FRAME, PX, PX, st.floats(0.1, 40).map(lambda v: round(v, 3)))
scales = st.one_of(
    st.builds(NoScale),
    st.builds(TypedScale, st.floats(0.01, 5)),
    st.builds(Stature, st.floats(100, 220)),
    st.builds(KnownLength, FRAME, PX, PX, PX, PX, st.floats(1, 200)),
)
drawn = st.builds(Drawn, st.sampled_from(["line", "pen", "word"]), st.tuples(PX, PX, PX, PX), FRAME, WORDS)


def in_order(pinned):
    """The same frames, each later checkpoint on a later one."""
    return {n: 90 * CHECKPOINTS.index(n) / 2 + f / 10 for n, f in pinned.items()}


takes = st.builds(
    Take,
    clip=st.just(ClipRef("clip.mp4", 900, 1280, 720, 120.0, 77, "abc")),
    span=st.one_of(st.none(), st.tuples(st.integers(0, 400), st.integers(400, 899))),
    view=st.sampled_from(View),
    mirrored=st.sampled_from([None, True, False]),
    capture_rate=st.one_of(st.none(), st.floats(20, 1000)),
    looked=st.booleans(),
    near=st.one_of(st.none(), st.builds(Near, PX, PX, st.one_of(st.none(), FRAME))),
    scale=scales,
    marks=st.lists(marks, max_size=6).map(tuple),
    pinned=st.dictionaries(st.sampled_from(CHECKPOINTS), st.floats(0, 89)).map(in_order),
    drawn=st.lists(drawn, max_size=2).map(tuple),
    offset_s=st.floats(-3, 3),
    plate=st.one_of(st.none(), st.just(FileRef("plate.csv", 5, "def"))),
)
swings = st.builds(
    Swing,
    id=WORDS,
    golfer=st.text(max_size=20),
    hand=st.sampled_from(Hand),
    club=st.sampled_from(Club),
    kind=st.sampled_from(Kind),
    ball=st.one_of(st.none(), st.builds(Ball, WORDS, st.integers(0, 9), cue=WORDS)),
    takes=st.lists(takes, min_size=1, max_size=2).map(tuple),
    guessed=st.lists(st.sampled_from(["view", "hand"]), unique=True).map(tuple),
    overrides=st.lists(st.builds(Override, WORDS, st.just("clear"), WORDS), max_size=2).map(tuple),
    checkpoints=st.lists(st.builds(OwnCheckpoint, WORDS, frame=st.floats(0, 899)), max_size=2).map(tuple),
    typed=st.lists(st.builds(TypedValue, WORDS, PX, st.floats(0, 9)), max_size=2).map(tuple),
)


@given(swings)
def test_a_saved_swing_comes_back(tmp_path_factory, swing):
    """To the last field, paths relative to the document in between; and every field is written."""
    folder = tmp_path_factory.mktemp("swing")
    named = {"clip": str(folder / "clip.mp4"), "plate": str(folder / "plate.csv")}
    moved = tuple(
        take.with_(**{k: msgspec.structs.replace(f, path=named[k]) for k in named if (f := getattr(take, k))})
        for take in swing.takes
    )
    swing = msgspec.structs.replace(swing, takes=moved)
    path = folder / "a.swing.json"
    save_swing(path, swing)
    assert load_swing(path) == swing
    written = json.loads(path.read_text())["swing"]
    assert written["takes"][0]["clip"]["path"] == "clip.mp4"
    assert set(written) == set(Swing.__struct_fields__)
    assert set(written["takes"][0]) == set(Take.__struct_fields__)


@given(swings.filter(lambda one: len(one.takes) == 2), marks, st.sampled_from(Club))
def test_what_is_done_on_the_second_clip_is_done_to_the_second_take_alone(swing, mark, club):
    """Seen from its second camera and back nothing is lost; what both share is changed for both."""
    seen = turned(swing)
    mark = msgspec.structs.replace(mark, frame=mark.frame % (900 - seen.take.start))
    assert (seen.take, turned_back(swing, seen)) == (swing.takes[1], swing)
    done = turned_back(swing, seen.with_mark(mark).given(club=club))
    assert done.takes[0] == swing.takes[0] and done.checkpoints == swing.checkpoints
    assert turned(done).marks == seen.with_mark(mark).marks and done.club is club
    parted = without_second(done)
    assert with_second(parted, done.takes[1]).takes == done.takes and parted.takes == swing.takes[:1]


plain_swings = st.builds(
    Swing, golfer=st.text(max_size=4), hand=st.sampled_from(Hand), club=st.sampled_from(Club)
)


@given(st.lists(st.tuples(st.integers(0, 2), plain_swings), min_size=1, max_size=12))
def test_undo_and_redo_are_exact(steps):
    """Do then undo is the identity, undo then redo too; a new step after undo ends what could be redone."""
    history, states = History(Swing()), [Swing()]
    for kind, swing in steps:
        if kind == 0 and len(states) > 1:
            before = history.now
            assert history.undo() and history.redo()
            assert history.now == before
        elif kind == 1 and len(states) > 1:
            assert history.undo()
            states.pop()
            if history.push("other way", swing):
                states.append(swing)
                assert history.redo_label is None and not history.redo()
            else:
                assert history.redo()
                states.append(history.now)
        elif history.push("step", swing):
            states.append(swing)
        assert not history.push("nothing", history.now)
        assert history.now == states[-1]
    for state in reversed(states[:-1]):
        assert history.undo()
        assert history.now == state
    assert not history.undo() and history.undo_label is None
    for state in states[1:]:
        assert history.redo()
        assert history.now == state
    assert not history.redo()


@given(swings, marks)
def test_marks_replace_and_leave(swing, mark):
    """Marks are counted in frames of the swing, wherever in its clip that begins."""
    start, last = swing.take.start, 899
    if mark.frame + start > last:
        with pytest.raises(ValueError, match="does not have"):
            swing.with_mark(mark)
        return
    placed = swing.with_mark(mark)
    assert [m for m in placed.marks if (m.point, m.frame) == (mark.point, mark.frame)] == [mark]
    assert any((m.point, m.frame) == (mark.point, mark.frame + start) for m in placed.take.marks)
    gone = placed.without_mark(mark.point, mark.frame)
    assert not any((m.point, m.frame) == (mark.point, mark.frame) for m in gone.marks)
    assert len(gone.take.marks) == len(placed.take.marks) - 1
    assert "view" not in swing.given(view=View.REAR).guessed
    pinned = swing.given(pinned={}).with_checkpoint("top", 0.5)
    assert pinned.pinned["top"] == 0.5 and pinned.take.pinned["top"] == start + 0.5
    assert "top" not in pinned.with_checkpoint("top", None).pinned
    by_one = Swing().given(span=(1, 9)).with_mark(Mark("head", 3, 1.0, 1.0))
    assert by_one.take.marks[0].frame == 4 and by_one.marks[0].frame == 3
    same = swing.given(marks=swing.marks, pinned=swing.pinned, guessed=swing.guessed)
    assert same.marks == swing.marks and same.pinned == swing.pinned


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


CLIP = '"clip": {"path": "a.mp4", "frames": 90, "width": 9, "height": 9, "rate_stored": 30}'


@pytest.mark.parametrize(
    ("content", "about"),
    [
        ("", "not a swing file"),
        ("[]", "."),
        ("{", "not a swing file"),
        ('{"kneel_swing": 1}', "missing required field"),
        ('{"kneel_swing": 99, "swing": {}}', "newer Kneel"),
        ('{"kneel_swing": 0, "swing": {}}', "not a swing file"),
        ('{"kneel_swing": 1, "swing": {"view": "sideways"}}', "sideways"),
        ('{"kneel_swing": 1, "swing": {"unheard_of": 1}}', "unheard_of"),
        ('{"kneel_swing": 1, "swing": {"marks": [{"point": "nose", "frame": 1, "x": 1, "y": 1}]}}', "nose"),
        ('{"kneel_swing": 1, "swing": {"marks": [{"point": "head", "frame": -1, "x": 1, "y": 1}]}}', "frame"),
        ('{"kneel_swing": 1, "swing": {"pinned": {"noon": 4}}}', "noon"),
        ('{"kneel_swing": 1, "swing": {"takes": []}}', "one take or two"),
        (
            '{"kneel_swing": 1, "swing": {"takes": [{"pinned": {"top": 90.0}, ' + CLIP + "}]}}",
            "does not have",
        ),
        ('{"kneel_swing": 1, "swing": {"takes": [{"span": [95, 99], ' + CLIP + "}]}}", "within its clip"),
        ('{"kneel_swing": 1, "swing": {"takes": [{"span": [9, 3]}]}}', "begins before it ends"),
        ('{"kneel_swing": 1, "swing": {"takes": [{"capture_rate": 0}]}}', "rate of capture"),
        (
            '{"kneel_swing": 1, "swing": {"takes": [{"scale": {"type": "typed", "cm_per_px": 0}}]}}',
            "cm per pixel",
        ),
        (
            '{"kneel_swing": 1, "swing": {"takes": [{"scale": {"type": "stature", "stature_cm": 7}}]}}',
            "stature",
        ),
        ('{"kneel_swing": 1, "swing": {"school": "of hard knocks"}}', "of hard knocks"),
        ('{"kneel_swing": 1, "swing": {"span": "abc", "marks": [3]}}', "."),
    ],
)
def test_broken_documents_are_refused_and_left_alone(tmp_path, content, about):
    path = tmp_path / "x.swing.json"
    path.write_text(content)
    with pytest.raises(SwingFileError, match=about) as caught:
        load_swing(path)
    assert "\n" not in str(caught.value) and "x.swing.json" in str(caught.value)
    assert path.read_text() == content
    with pytest.raises(SwingFileError):
        load_swing(tmp_path / "absent.swing.json")


TAKE = Take(clip=ClipRef("a", 90, 9, 9, 30.0))


@pytest.mark.parametrize(
    ("record", "inside", "outside"),
    [
        (lambda v: Mark("head", v, 1, 1), [0, 10_000_000], [-1, 10_000_001]),
        (lambda v: Mark("head", 1, v, 1), [-1e5, 1e5], [-1.0001e5, 1.0001e5, float("nan"), float("inf")]),
        (lambda v: Mark("head", 1, 1, v), [-1e5, 1e5], [-1.0001e5, 1.0001e5]),
        (lambda v: Mark("head", 1, 1, 1, v), [0.001, 1e5], [0, -1, 1.0001e5, float("nan")]),
        (lambda v: ClipRef("a", v, 1, 1, 30.0), [1, 10_000_000], [0, 10_000_001]),
        (lambda v: ClipRef("a", 9, v, 1, 30.0), [1], [0]),
        (lambda v: ClipRef("a", 9, 1, 1, v), [0, 1e6], [-1, 1.1e6, float("nan")]),
        (lambda v: Near(v, 1.0), [-1e5, 1e5], [1.1e5]),
        (lambda v: Near(1.0, 1.0, v), [None, 0], [-1]),
        (TypedScale, [0.001, 20], [0.0009, 20.1]),
        (lambda v: TypedScale(2.0, v), [0, 2.0], [-0.1, 2.1]),
        (Stature, [80, 250], [79.9, 250.1]),
        (lambda v: Stature(170, v), [0, 50], [-1, 51]),
        (lambda v: KnownLength(v, 1, 1, 1, 1, 9.0), [0], [-1]),
        (lambda v: KnownLength(1, v, 1, 1, 1, 9.0), [-1e5], [-1.1e5]),
        (lambda v: KnownLength(1, 1, 1, 1, 1, v), [0.1, 10000], [0.09, 10001]),
        (lambda v: KnownLength(1, 1, 1, 1, 1, 9.0, sigma_px=v), [0.1, 1e5], [0, 1.1e5]),
        (lambda v: Drawn("dot", v), [(1.0, 2.0)], [(), (1.0,), (1.0, 1e6)]),
        (lambda v: Drawn(v, (1.0, 2.0, 3.0, 4.0)), ["line", "pen", "prop"], ["blob", "angle"]),
        (lambda v: TAKE.with_(span=v), [(0, 0), (89, 99), None], [(-1, 3), (5, 4), (90, 99)]),
        (lambda v: TAKE.with_(capture_rate=v), [None, 1, 10000], [0.9, 10001]),
        (lambda v: TAKE.with_(pinned={"top": v}), [0, 89], [-0.1, 89.1]),
        (lambda v: TAKE.with_(marks=(Mark("head", v, 1, 1),)), [0, 89], [90]),
        (lambda v: TAKE.with_(offset_s=v), [-1e5, 1e5], [-1.1e5, 1.1e5]),
        (lambda v: TAKE.with_(offset_sigma_s=v), [0, 1e5], [-0.1]),
        (lambda v: TypedValue("tempo", 3.0, v), [0], [-0.1]),
        (lambda v: Swing(takes=(Take(),) * v), [1, 2], [0, 3]),
        (Sight, [0], [-1]),
    ],
)
def test_bounds_are_held_by_the_records(record, inside, outside):
    """What lies on a bound may be, what lies beyond may not; files, command line and desk share the check."""
    for value in inside:
        record(value)
    for value in outside:
        with pytest.raises(ValueError, match=r"\w"):
            record(value)


def test_documents_written_before_version_1_still_open(tmp_path):
    """Flat, counted from the swing's own first frame, with what was looked at among it."""
    draft = {
        "clip": {"path": "range.mp4", "frames": 900, "width": 1280, "height": 720, "rate_stored": 120.0},
        "span": [200, 600],
        "golfer": "Maren Tolhurst",
        "view": "down-the-line",
        "hand": "left",
        "scale": {"type": "stature", "stature_cm": 168.0},
        "marks": [{"point": "left_hip", "frame": 7, "x": 640.5, "y": 400.25}],
        "pinned": {"top": 120.5},
        "plumbs": ["pelvis"],
        "guessed": ["hand"],
        "frame": 33,
    }
    path = tmp_path / "range.2.swing.json"
    path.write_text(json.dumps({"kneel_swing": 1, "swing": draft}))
    swing = load_swing(path)
    assert swing.marks == (Mark("left_hip", 7, 640.5, 400.25),) and swing.pinned == {"top": 120.5}
    assert swing.take.marks[0].frame == 207 and swing.take.pinned == {"top": 320.5}
    assert (swing.view, swing.hand, swing.known_view) == (View.DOWN_THE_LINE, Hand.LEFT, View.DOWN_THE_LINE)
    assert swing.scale == Stature(168.0) and swing.clip.path == str(tmp_path / "range.mp4")
    save_swing(path, swing)
    assert load_swing(path) == swing


def clip_file(path, content):
    path.write_bytes(content)
    return ClipRef(str(path), 90, 9, 9, 30.0, len(content), content_of(path))


def test_each_clip_has_its_own_document_whatever_it_is_called(tmp_path):
    """``x.mp4`` and ``x.mov`` share none; a renamed clip keeps its own; another in its place does not."""
    one = clip_file(tmp_path / "x.mp4", b"face on" * 300)
    other = tmp_path / "x.mov"
    clip_file(other, b"the line" * 300)
    assert free_document(tmp_path / "y.mp4").name == "y.swing.json"
    document = free_document(tmp_path / "x.mp4")
    assert document.name == "x.mp4.swing.json"
    save_swing(document, Swing(golfer="Maren").given(clip=one))
    assert documents_of(tmp_path / "x.mp4") == [document]
    assert documents_of(other) == [] and free_document(other).name == "x.mov.swing.json"
    (tmp_path / "x.mp4").rename(tmp_path / "maren.mp4")
    assert documents_of(tmp_path / "maren.mp4") == [document]
    assert clip_of(load_swing(document), document) == tmp_path / "maren.mp4"
    clip_file(tmp_path / "x.mp4", b"FACE ON" * 300)
    assert documents_of(tmp_path / "x.mp4") == []
    # A document from before contents were kept is found by size and name.
    known = msgspec.structs.replace(one, content="", path=str(tmp_path / "maren.mp4"))
    save_swing(document, Swing().given(clip=known))
    assert documents_of(tmp_path / "maren.mp4") == [document]
    assert documents_of(tmp_path / "x.mp4") == []


def test_several_swings_of_one_clip_come_in_the_order_of_the_clip(tmp_path):
    clip = tmp_path / "range.mp4"
    known = clip_file(clip, b"range" * 99)
    for number, first in ((10, 5), (2, 60), (9, 5)):
        path = free_document(clip, number)
        save_swing(path, Swing().given(clip=known, span=(first, first + 20)))
    names = [p.name for p in documents_by_clip([clip])[clip]]
    assert names == ["range.9.swing.json", "range.10.swing.json", "range.2.swing.json"]
    (tmp_path / "broken.swing.json").write_text("{")
    assert len(documents_of(clip)) == 3
    shutil.rmtree(tmp_path)
    assert documents_of(clip) == []


def test_how_a_swing_is_looked_at_is_kept_apart(tmp_path):
    document = tmp_path / "x.swing.json"
    assert load_sight(document) is None
    save_sight(document, Sight(42, ("pelvis",)))
    assert load_sight(document) == Sight(42, ("pelvis",)) and not document.exists()
    with pytest.raises(ValueError, match="counted from 0"):
        Sight(-1)
