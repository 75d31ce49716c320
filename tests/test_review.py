"""Spoken reviews: edits, clocks, what a kill leaves, a film in step with its voice, the desk that records."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import textwrap
import threading
import time
import wave
from pathlib import Path

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from kneel.book import open_book
from kneel.book.exchange.exporting import export
from kneel.book.exchange.importing import take_in
from kneel.book.exchange.reviews import demand_own
from kneel.book.index.indexing import file_swing
from kneel.book.index.made import note_made
from kneel.book.maintenance.purge import hide, purge
from kneel.book.repository import students
from kneel.cli.main import main
from kneel.desk.operations import microphone as mic
from kneel.desk.places.review import opened
from kneel.desk.places.review.film import write_film
from kneel.desk.places.review.recorder import Doing
from kneel.desk.swing.aim import Aimed
from kneel.documents.swing_file import load_swing
from kneel.footage import writer
from kneel.model import ParcelError
from kneel.model.review import Change, Piece, Review, ReviewedSwing, Seen, SpokenTake
from kneel.model.take import Drawn, FileRef
from kneel.review.beside import Lying, film_name, reviews_beside
from kneel.review.edits import Course, chapters, cut, said_anew, trim
from kneel.review.file import ReviewError, load_review, save_review
from kneel.review.journal import PART, Heard, broken_off, clock_of, read_journal, settled
from kneel.review.sound import spoken
from kneel.review.voice import HEADER, RATE, VoiceWriter, mended, read_voice
from tests.desk import CLIP, PATIENCE_MS, open_clip, press, saved
from tests.test_handout import lesson

CLICK = np.sin(np.arange(480) * 0.2)
SWING = CLIP.replace(".mp4", ".swing.json")


def clicks_at(times, seconds, rate=RATE):
    """A voice that clicks at these times, of a clock of ``rate``."""
    voice = np.zeros(round(seconds * rate))
    for t in times:
        first = round(t * rate)
        voice[first : first + len(CLICK)] = 0.8 * CLICK
    return (voice * 32767).astype(np.int16)


def heard_near(samples, t, within=0.25):
    """When a click is heard near a time, by cross-correlation, s."""
    first = max(round((t - within) * RATE), 0)
    part = samples[first : round((t + within) * RATE)]
    return (first + int(np.argmax(np.correlate(part, CLICK, "valid")))) / RATE


def written(path, samples, rate=RATE):
    writer = VoiceWriter(path, rate)
    writer.write(samples)
    writer.close()
    return FileRef(str(path))


def review_of(document, changes, seconds, voice=None, **more):
    swing = load_swing(document)
    shown = ReviewedSwing(str(document), FileRef(swing.clip.path), swing.id, "iron")
    take = SpokenTake(seconds, tuple(changes), voice, **more)
    return Review((shown,), (take,), (Piece(0, 0.0, seconds),), golfer=swing.golfer)


# Edits.

times = st.floats(0.0, 30.0)


@st.composite
def edited(draw):
    """A review of two takes that has been cut and said anew in places."""
    changes = tuple(Change(t, frame=k) for k, t in enumerate(sorted(draw(st.lists(times, max_size=12)))))
    review = Review((), (SpokenTake(30.0, changes),), (Piece(0, 0.0, 30.0),))
    for _ in range(draw(st.integers(0, 3))):
        a, b = sorted((draw(times) % review.seconds, draw(times) % review.seconds))
        if b - a > 0.2 and review.seconds - (b - a) > 1:
            fresh = SpokenTake(draw(st.floats(0.5, 5)), (Change(0.0, frame=900),))
            review = cut(review, a, b) if draw(st.booleans()) else said_anew(review, a, b, fresh)
    return review


@given(edited(), times, times, st.floats(0, 1))
def test_a_cut_takes_out_its_stretch_and_nothing_else(review, a, b, where):
    a, b = sorted((a % review.seconds, b % review.seconds))
    if b - a < 0.2 or review.seconds - (b - a) < 0.5:
        return
    left = cut(review, a, b)
    # What is shorter than a piece may be goes too, at each side of each edge.
    assert left.seconds == pytest.approx(review.seconds - (b - a), abs=0.2)
    kept = trim(review, a, b)
    assert kept.seconds == pytest.approx(b - a, abs=0.2)
    course, before = Course(left), Course(review)
    t = where * a
    (take, then), (left_take, left_then) = before.place(t), course.place(t)
    if take == left_take and abs(left_then - then) < 1e-6:
        assert course.at(t)[0] == before.at(t)[0]
    for one in (left, kept):
        assert all(0 <= piece.start_s < piece.end_s for piece in one.pieces)
        assert sum(end - start for start, end, _ in Course(one).runs()) == pytest.approx(one.seconds)


def test_a_stretch_said_anew_stands_in_the_place_of_the_old_one():
    old = SpokenTake(10.0, (Change(0.0, frame=1), Change(4.0, frame=2), Change(7.0, frame=3)))
    review = Review((), (old,), (Piece(0, 0.0, 10.0),))
    made = said_anew(review, 4.0, 7.0, SpokenTake(1.5, (Change(0.0, frame=50), Change(1.0, frame=51))))
    course = Course(made)
    shown = [course.at(t)[0].frame for t in (1.0, 4.2, 5.2, 5.6, 8.4)]
    assert shown == [1, 50, 51, 3, 3] and made.seconds == 8.5
    with pytest.raises(ValueError, match="nothing"):
        cut(review, 0.0, 10.0)
    with pytest.raises(ValueError, match="one of the takes"):
        Review((), (old,), (Piece(1, 0.0, 2.0),))


def test_chapters_come_from_the_checkpoints_that_are_looked_at():
    changes = (
        Change(0.0, swing=0, at="address"),
        Change(0.4, at=""),
        Change(1.0, at="top"),
        Change(3.0, at=""),
        Change(3.1, at="top"),
        Change(5.0, swing=1),
        Change(8.0, swing=0, at="impact"),
    )
    swings = tuple(ReviewedSwing(f"{k}.swing.json", FileRef("x.mp4"), "", f"swing {k}") for k in range(2))
    review = Review(swings, (SpokenTake(9.0, changes),), (Piece(0, 0.0, 9.0),))
    assert [(c.at, c.swing, c.start_s) for c in chapters(review)] == [
        ("top", 0, 1.0),
        ("top", 1, 5.0),
        ("impact", 0, 8.0),
    ]
    assert Course(review).at(0.2)[1] is None
    pressed = SpokenTake(2.0, (Change(0.5, down=True), Change(0.6, down=False)))
    assert Course(Review((), (pressed,), (Piece(0, 0.0, 2.0),))).at(0.8)[1] == pytest.approx(0.3)


# Clocks and voices.


@given(st.floats(-400, 400), st.floats(0.0, 0.4), st.integers(0, 50))
def test_the_voices_clock_is_found_through_parts_that_come_late(ppm, late_s, seed):
    """Ten minutes of a clock that is off, parts now and then held up by 0.2 s: within 5 ms at both ends."""
    rng, pace = np.random.default_rng(seed), 1 + ppm * 1e-6
    heard = []
    for t in np.arange(0.5, 600.0, 0.5) + late_s:
        samples = int((t - late_s) * pace * RATE)
        held = rng.exponential(0.02) if rng.random() < 0.7 else 0.0
        heard.append(Heard(float(t + min(held, 0.2)), samples))
    found_late, found_pace = clock_of(heard, RATE)
    for at in (late_s, 600.0):
        true, found = (at - late_s) * pace, (at - found_late) * found_pace
        assert found == pytest.approx(true, abs=0.005)


def test_what_is_heard_lies_where_it_was_said_after_ten_minutes(tmp_path):
    """A voice whose clock runs 300 ppm fast and begins late, cut and said anew: every click within 5 ms."""
    pace, late = 1.0003, 0.21
    said = [0.5, 30.0, 299.0, 450.0, 598.0]
    voice = written(tmp_path / "v.wav", clicks_at([(t - late) * pace for t in said], 600.5))
    other = written(tmp_path / "w.wav", clicks_at([1.0], 4.0))
    take = SpokenTake(600.0, (Change(0.0, frame=0),), voice, late, pace)
    whole = Review((), (take,), (Piece(0, 0.0, 600.0),))
    samples, notes = spoken(whole)
    assert not notes and len(samples) == 600 * RATE
    for t in said:
        assert heard_near(samples, t) == pytest.approx(t, abs=0.005)
    cut_out = said_anew(cut(whole, 100.0, 200.0), 10.0, 20.0, SpokenTake(4.0, (), other))
    samples, _ = spoken(cut_out)
    for said_at, shown_at in ((0.5, 0.5), (30.0, 24.0), (598.0, 492.0)):
        assert heard_near(samples, shown_at) == pytest.approx(shown_at, abs=0.005), said_at
    assert heard_near(samples, 11.0) == pytest.approx(11.0, abs=0.005)


def test_a_sound_file_of_any_rate_is_a_voice_and_what_is_none_is_told(tmp_path):
    path = tmp_path / "phone.wav"
    with wave.open(str(path), "wb") as file:
        file.setnchannels(2)
        file.setsampwidth(2)
        file.setframerate(22050)
        mono = clicks_at([1.0, 2.5], 3.0, 22050)
        file.writeframes(np.stack([mono, mono], axis=1).astype("<i2").tobytes())
    samples, rate = read_voice(path)
    assert rate == RATE and len(samples) == pytest.approx(3.0 * RATE, abs=200)
    loud = np.flatnonzero(np.abs(samples) > 0.2) / RATE
    assert loud[0] == pytest.approx(1.0, abs=0.005) and loud[-1] == pytest.approx(2.52, abs=0.01)
    (tmp_path / "no.wav").write_bytes(b"RIFF" + b"\x00" * 60)
    for name, words in (("no.wav", "no sound"), ("gone.wav", "gone")):
        with pytest.raises(ReviewError, match=words):
            read_voice(tmp_path / name)


def test_a_kill_leaves_all_but_the_last_second(tmp_path):
    """A recording is killed from outside: the journal and the voice come to a review with nearly all."""
    document = tmp_path / "one.review.json"
    program = textwrap.dedent(
        f"""
        import sys, time, numpy as np
        from kneel.model.review import Change, Review
        from kneel.review.journal import Head, Journal
        voice = {str(tmp_path / "one.voice-1.wav")!r}
        journal = Journal(Head(1, Review((), (), ()), {str(document)!r}, voice, 48000))
        began = time.perf_counter()
        given = 0
        while True:
            t = time.perf_counter() - began
            due = int(t * 48000)
            journal.hear(t, np.full(due - given, 1000, np.int16)); given = due
            journal.note(Change(t, frame=int(t * 30)))
            print(t, flush=True)
            time.sleep(0.02)
        """
    )
    running = subprocess.Popen([sys.executable, "-c", program], stdout=subprocess.PIPE, text=True)
    last = 0.0
    while last < 2.5:
        last = float(running.stdout.readline())
        if last > 1:
            assert broken_off(tmp_path) == [], "somebody is writing it"
    os.kill(running.pid, signal.SIGKILL)
    running.wait()
    with running.stdout:
        rest = [float(line) for line in running.stdout.read().split()]
    last = rest[-1] if rest else last
    (part,) = broken_off(tmp_path)
    assert part.name.endswith(PART)
    with part.open("ab") as file:
        file.write(b'{"t":9')
    review = settled(read_journal(part), part)
    assert review.seconds == pytest.approx(last, abs=1.0) and not part.exists()
    assert Course(review).at(review.seconds)[0].frame >= int(30 * (last - 1.0))
    samples, _ = read_voice(Path(review.takes[0].voice.path))
    assert len(samples) / RATE == pytest.approx(last, abs=1.0)
    assert load_review(document) == review


def test_a_full_disk_keeps_what_was_written(tmp_path):
    writer = VoiceWriter(tmp_path / "v.wav", RATE)
    writer.write(np.ones(4800, np.int16))
    writer._file.write(b"\x01")
    writer._file.close()
    assert mended(tmp_path / "v.wav") == 4800
    assert (tmp_path / "v.wav").stat().st_size == HEADER + 9600
    (tmp_path / "bad.wav").write_bytes(b"abc")
    with pytest.raises(OSError, match="voice"):
        mended(tmp_path / "bad.wav")


# The film.


def test_the_film_is_in_step_with_its_voice_from_end_to_end(tmp_path):
    """A spoken click and another frame at the same moment: within 40 ms in the film, first and last."""
    document, seconds = lesson(tmp_path, "maren-tolhurst-iron"), 9.0
    said = [1.0, 3.0, 5.0, 8.0]
    pace, late = 1.0005, 0.12
    voice = written(tmp_path / "v.wav", clicks_at([(t - late) * pace for t in said], seconds + 0.5))
    changes = [Change(0.0, swing=0, take=0, frame=0, at="address", plain=True, hand=None)]
    # Address and the top of the backswing are far apart in brightness where the hands go.
    changes += [Change(t, frame=145 if k % 2 == 0 else 0) for k, t in enumerate(said)]
    save_review(
        tmp_path / "r.review.json", review_of(document, changes, seconds, voice, late_s=late, pace=pace)
    )
    out = tmp_path / "r.mp4"
    assert main(["review", str(tmp_path / "r.review.json"), "--out", str(out)]) == 0
    with av.open(str(out)) as film:
        kinds = [(s.type, s.codec_context.name) for s in film.streams]
        pictures = [(f.time, f.to_ndarray(format="gray").astype(float)) for f in film.decode(video=0)]
    assert kinds == [("video", "h264"), ("audio", "aac")]
    assert pictures[0][1].shape == (720, 1280) and len(pictures) == pytest.approx(30 * seconds, abs=1)
    changed = [
        t
        for (t, now), (_, then) in zip(pictures[1:], pictures, strict=False)
        if np.abs(now - then).mean() > 0.35
    ]
    samples, _ = read_voice(out)
    for t in said:
        seen = min(changed, key=lambda one, t=t: abs(one - t))
        assert abs(heard_near(samples, t) - seen) <= 0.040, (t, seen)
        assert heard_near(samples, t) == pytest.approx(t, abs=0.03)


def test_the_film_shows_what_was_on_show(tmp_path):
    """Frame, part, finding, what was drawn, the hand with its ring and the chapter's title; upright too."""
    document = lesson(tmp_path, "maren-tolhurst-iron")
    drawn = Drawn("circle", (640.0, 360.0, 760.0, 360.0), None)
    base = Change(0.0, swing=0, take=0, frame=145, at="top", fault="sway", hand=(640.0, 300.0))
    variants = {
        "plain": (base,),
        "drawn": (base, Change(0.0, drawn=(drawn,))),
        "near": (base, Change(0.0, part=(500.0, 200.0, 200.0, 200.0))),
        "pressed": (base, Change(0.0, down=True)),
        "away": (base, Change(0.0, hand=None)),
        "aimed": (base, Change(0.0, aim="ghost")),
        "untitled": (base, Change(0.0, at="")),
    }
    shots = {}
    for name, changes in variants.items():
        path = tmp_path / f"{name}.review.json"
        save_review(path, review_of(document, changes, 0.8))
        write_film(path, tmp_path / f"{name}.mp4", upright=name == "near")
        with av.open(str(tmp_path / f"{name}.mp4")) as film:
            assert [s.type for s in film.streams] == ["video"]
            shots[name] = next(film.decode(video=0)).to_ndarray(format="gray").astype(float)
    assert shots["near"].shape == (1280, 720)
    for name in set(shots) - {"plain", "near"}:
        assert np.abs(shots[name] - shots["plain"]).max() > 40, name
    save_review(
        tmp_path / "g.review.json",
        review_of(document, variants["plain"], 0.5, FileRef(str(tmp_path / "x.wav"))),
    )
    (tmp_path / "2026-11-03" / CLIP).rename(tmp_path / "elsewhere.mp4")
    notes = write_film(tmp_path / "g.review.json", tmp_path / "g.mp4")
    assert len(notes) == 2 and "voice" in notes[0] and "gone" in notes[1]


def test_what_is_no_review_ends_in_one_sentence(tmp_path, capsys):
    bad = {"text": b"no json", "newer": b'{"kneel_review":9,"review":{"swings":[],"takes":[],"pieces":[]}}'}
    bad["wrong"] = (
        b'{"kneel_review":1,"review":{"swings":[],"takes":[],"pieces":[{"take":0,"start_s":0,"end_s":1}]}}'
    )
    bad["empty"] = b'{"kneel_review":1,"review":{"swings":[],"takes":[],"pieces":[]}}'
    for name, raw in bad.items():
        path = tmp_path / f"{name}.review.json"
        path.write_bytes(raw)
        assert main(["review", str(path), "--out", str(tmp_path / "x.mp4")]) == 2
        said = capsys.readouterr().err
        assert said.count("\n") == 1 and "Traceback" not in said and path.read_bytes() == raw
    assert main(["review", str(tmp_path / "text.review.json"), "--out", str(tmp_path)]) == 2
    assert not (tmp_path / "x.mp4").exists()


def test_without_an_encoder_there_is_one_sentence_and_no_film(tmp_path, monkeypatch, capsys):
    document, path = lesson(tmp_path, "maren-tolhurst-iron"), tmp_path / "r.review.json"
    save_review(path, review_of(document, [Change(0.0, swing=0, frame=10)], 0.3))
    plain = av.container.OutputContainer.add_stream

    def lacking(self, codec, *more, **kind):
        return plain(self, "no-such-codec" if codec == "libx264" else codec, *more, **kind)

    proxy = type("Proxy", (), {"open": staticmethod(_opened_lacking(lacking))})
    monkeypatch.setattr(writer.av, "open", proxy.open)
    assert main(["review", str(path), "--out", str(tmp_path / "x.mp4")]) == 2
    said = capsys.readouterr().err
    assert "no encoder" in said and said.count("\n") == 1 and not (tmp_path / "x.mp4").exists()


def _opened_lacking(lacking):
    """``av.open`` whose containers lack a codec."""
    plain = av.open

    class Lacking:
        def __init__(self, container):
            self._container = container
            self.metadata = container.metadata

        def __enter__(self):
            return self

        def __exit__(self, *_):
            self._container.close()

        def add_stream(self, *told, **kind):
            return lacking(self._container, *told, **kind)

        def __getattr__(self, name):
            return getattr(self._container, name)

    def opened(name, mode="r", **how):
        container = plain(name, mode, **how)
        return Lacking(container) if mode == "w" else container

    return opened


def test_who_has_no_name_sees_no_other_one_s_reviews(tmp_path):
    """Unnamed swings of one folder: each has its own reviews; a name given later keeps them."""
    mine, other = lesson(tmp_path, "maren-tolhurst-iron"), lesson(tmp_path, "idris-vale-iron")
    kept = mine.parent / "kept"
    kept.mkdir()
    for name, document in (("a", mine), ("b", other)):
        save_review(kept / f"{name}.review.json", replace(review_of(document, [], 1.0), golfer=""))
    for document, name in ((mine, "a"), (other, "b")):
        clip = Path(load_swing(document).clip.path)
        for golfer in ("", load_swing(document).golfer):
            assert [one.path.name for one in reviews_beside(clip, golfer)] == [f"{name}.review.json"]


# The desk.


def listening(qtbot, window, demo, monkeypatch):
    """The desk with a swing on it and a simulated microphone."""
    monkeypatch.setenv(mic.CHOSEN_BY, mic.SIMULATED)
    open_clip(qtbot, window, demo / SWING)
    desk = window.on_desk
    qtbot.waitUntil(lambda: desk.numbers.reading is not None and not desk.numbers.busy, timeout=PATIENCE_MS)
    desk.selection.choose("sway")
    return desk


def test_a_review_is_recorded_paused_said_anew_edited_and_filmed(qtbot, window, demo, monkeypatch):
    desk = listening(qtbot, window, demo, monkeypatch)
    recorder, bar, stage = window.reviewing.recorder, window.reviewing.bar, window.bench.stage
    press(qtbot, stage, Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: recorder.doing is Doing.RECORDING, timeout=PATIENCE_MS)
    assert bar.isVisible() and not bar.again.isVisible()
    desk.go_to("address")
    qtbot.wait(900)
    desk.go_to("top")
    at = stage.view.to_widget(640.0, 300.0).toPoint()
    QTest.mouseMove(stage, at)
    QTest.mouseClick(stage, Qt.MouseButton.LeftButton, pos=at)
    desk.aim.toggle(Aimed.GHOST)
    stage.zoom(1.5)
    cross = Drawn("cross", (600.0, 300.0), desk.cursor.frame)
    desk.set("Draw", drawn=(*desk.swing.drawn, cross))
    qtbot.wait(900)
    recorder.pause()
    qtbot.waitUntil(lambda: bar.again.isVisible() and recorder.review.seconds > 1.5, timeout=PATIENCE_MS)
    first = recorder.review.seconds
    qtbot.wait(400)
    assert recorder.seconds == first, "a pause is no part of it"
    bar.moment.setValue(round(10 * (first - 0.5)))
    bar.again.click()
    qtbot.waitUntil(lambda: recorder.doing is Doing.RECORDING, timeout=PATIENCE_MS)
    desk.go_to("impact")
    qtbot.wait(900)
    press(qtbot, stage, Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: window.place is window.review, timeout=PATIENCE_MS)
    place = window.review
    qtbot.waitUntil(lambda: place.shown.history is not None and place.list.count() == 1, timeout=PATIENCE_MS)
    review = place.shown.history.now
    assert len(review.takes) == 2 and review.golfer == desk.swing.golfer
    assert review.seconds == pytest.approx(first - 0.5 + review.takes[1].seconds, abs=0.15)
    states = [seen for _, _, seen in Course(review).runs()]
    tops = [s for s in states if s.at == "top"]
    assert any(s.aim == "ghost" for s in tops) and any(s.down for s in tops)
    assert any(s.drawn for s in tops)
    assert any(s.hand is not None and abs(s.hand[0] - 640) < 4 for s in tops)
    parts = {s.part[2] for s in states}
    assert min(parts) < max(parts), "it was zoomed"
    assert all(s.fault == "sway" for s in states)
    assert chapters(review)[0].at == "address" and chapters(review)[-1].at == "impact"
    for take in review.takes:
        samples, _ = read_voice(Path(take.voice.path))
        assert np.abs(samples).max() > 0.05
        assert take.late_s + len(samples) / RATE / take.pace == pytest.approx(take.seconds, abs=0.15)
    # Editing, each step undone and kept on the disk.
    whole = review.seconds
    place.wave.chosen = (0.2, 0.7)
    place._refresh()
    place.buttons["cut"].click()
    qtbot.waitUntil(lambda: load_review(place.shown.path).seconds < whole, timeout=PATIENCE_MS)
    assert place.shown.history.now.seconds == pytest.approx(whole - 0.5, abs=0.01)
    window.undo()
    qtbot.waitUntil(lambda: load_review(place.shown.path) == review, timeout=PATIENCE_MS)
    window.redo()
    place.player.go(0.1)
    qtbot.waitUntil(lambda: bool(place.screen._canvases), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: next(iter(place.screen._canvases.values())).exact, timeout=PATIENCE_MS)
    place.player.toggle()
    qtbot.waitUntil(lambda: place.player.at > 0.4, timeout=PATIENCE_MS)
    place.player.pause()
    place._actions.write(upright=False)
    kept = place.shown.path.parent
    qtbot.waitUntil(lambda: any(kept.glob("*.mp4")), timeout=PATIENCE_MS)
    with av.open(str(next(kept.glob("*.mp4")))) as film:
        assert float(film.duration) / av.time_base == pytest.approx(place.shown.history.now.seconds, abs=0.2)


def test_what_is_on_show_is_of_the_student_on_the_desk(qtbot, window, demo, monkeypatch):
    """Another student's swing is opened: the one before is not shown, nor does a sound go under theirs."""
    documents = [demo / SWING, next(demo.glob("[!m]*-iron.swing.json"))]
    kept = demo / "kept"
    kept.mkdir()
    paths = [kept / f"{name}.review.json" for name in "ab"]
    for path, document in zip(paths, documents, strict=True):
        save_review(path, review_of(document, [], 1.0))
    place = window.review
    for path, document in zip(paths, documents, strict=True):
        open_clip(qtbot, window, document)
        qtbot.waitUntil(lambda d=document: window.on_desk.path == d, timeout=PATIENCE_MS)
        assert place.shown.path in (None, path), "gone as soon as another student is there"
        window.go_to(place)
        qtbot.waitUntil(lambda path=path: place.shown.path == path, timeout=PATIENCE_MS)
        assert place.list.count() == 1
        qtbot.waitUntil(lambda: place.list.currentRow() == 0, timeout=PATIENCE_MS)
    written(demo / "voice.wav", clicks_at([0.3], 1.0))
    before, other_is_shown = paths[0].read_bytes(), threading.Event()
    monkeypatch.setattr(opened, "read_voice", lambda _: other_is_shown.wait(PATIENCE_MS / 1000))
    place._actions.lay_under(demo / "voice.wav")
    place.shown.open(paths[0])
    qtbot.waitUntil(lambda: place.shown.path == paths[0], timeout=PATIENCE_MS)
    other_is_shown.set()
    qtbot.waitUntil(lambda: not place.shown._savers.busy, timeout=PATIENCE_MS)
    assert paths[0].read_bytes() == before and not place.wave._samples.any()
    assert not list(kept.glob("*.wav")), "what was laid under nobody's review is not left lying"
    paths[0].unlink()
    open_clip(qtbot, window, documents[0])
    window.go_to(place)
    qtbot.waitUntil(lambda: place.shown.path is None and not place.list.count(), timeout=PATIENCE_MS)
    assert not place.buttons["play"].isEnabled()


def test_a_full_disk_ends_the_recording_and_keeps_what_there_is(qtbot, window, demo, monkeypatch):
    listening(qtbot, window, demo, monkeypatch)
    recorder, told = window.reviewing.recorder, []
    window.reviewing.failed.connect(told.append)
    recorder.begin()
    qtbot.waitUntil(lambda: recorder.doing is Doing.RECORDING and recorder.seconds > 1.0, timeout=PATIENCE_MS)

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(VoiceWriter, "write", full)
    qtbot.waitUntil(lambda: window.place is window.review, timeout=PATIENCE_MS)
    assert "No space left" in told[0] and "is safe" in told[0]
    qtbot.waitUntil(lambda: window.review.shown.history is not None, timeout=PATIENCE_MS)
    assert 0.9 < window.review.shown.history.now.seconds < 3.0


def test_without_a_microphone_a_review_is_silent_and_a_sound_file_is_laid_under(
    qtbot, window, demo, monkeypatch, tmp_path
):
    listening(qtbot, window, demo, monkeypatch)
    monkeypatch.setenv(mic.CHOSEN_BY, mic.SILENT)
    recorder = window.reviewing.recorder
    recorder.begin()
    qtbot.waitUntil(lambda: recorder.doing is Doing.RECORDING and recorder.seconds > 0.8, timeout=PATIENCE_MS)
    assert recorder.silent and "laid under" in window.status_bar.text()
    recorder.stop()
    place = window.review
    qtbot.waitUntil(lambda: place.shown.history is not None, timeout=PATIENCE_MS)
    assert place.shown.history.now.takes[0].voice is None and not place.wave._samples.any()
    told = []
    place.failed.connect(told.append)
    (tmp_path / "no.wav").write_bytes(b"nothing")
    place._actions.lay_under(tmp_path / "no.wav")
    qtbot.waitUntil(lambda: bool(told), timeout=PATIENCE_MS)
    assert "nothing was changed" in told[0] and place.shown.history.undo_label is None
    written(tmp_path / "voice.wav", clicks_at([0.3], 1.0))
    place._actions.lay_under(tmp_path / "voice.wav")
    qtbot.waitUntil(lambda: bool(place.wave._samples.any()), timeout=PATIENCE_MS)
    assert heard_near(place.wave._samples, 0.3, 0.1) == pytest.approx(0.3, abs=0.005)
    assert load_review(place.shown.path).takes[0].voice is not None


def test_a_recording_that_was_broken_off_is_there_when_its_swing_is_opened(qtbot, window, demo, monkeypatch):
    desk = listening(qtbot, window, demo, monkeypatch)
    recorder = window.reviewing.recorder
    recorder.begin()
    qtbot.waitUntil(lambda: recorder.doing is Doing.RECORDING and recorder.seconds > 0.8, timeout=PATIENCE_MS)
    recorder._tick.stop()
    recorder._mic.stop()
    recorder._writer.put(None)
    assert recorder._writer.over.wait(5)
    recorder.doing = Doing.NOTHING
    (part,) = (demo / "kept").glob(f"*{PART}")
    saved(qtbot, desk)
    told = []
    window.reviewing.failed.connect(told.append)
    open_clip(qtbot, window, demo / "idris-vale-iron.swing.json")
    qtbot.waitUntil(lambda: bool(told), timeout=PATIENCE_MS)
    assert "it was kept" in told[0] and not part.exists()
    assert len(list((demo / "kept").glob("*.review.json"))) == 1
    time.sleep(0)


def test_films_of_a_review_are_told_from_each_other_whatever_signs_its_name_has(tmp_path):
    review = tmp_path / "clip [7] of * 3.review.json"
    assert film_name(review).name == "clip [7] of * 3.mp4" and Lying(review, None).film is None
    for number, name in enumerate(("clip [7] of * 3.mp4", "clip [7] of * 3 2.mp4", "clip [7] of * 3 3.mp4")):
        assert film_name(review).name == name
        film_name(review).write_bytes(b"film")
        os.utime(tmp_path / name, (number, number))
        (tmp_path / "clip 7 of a 3.mp4").touch()
        assert Lying(review, None).film == tmp_path / name, "the last, and none of another clip"


def test_seen_and_change_are_each_others_way():
    one = Seen(
        1, 0, 40, "top", (0.0, 0.0, 10.0, 10.0), (3.0, 4.0), True, "sway", ("plumb",), (), "ghost", 0.5
    )
    change = Seen().change_to(one, 2.0)
    assert Seen().then(change) == one and one.change_to(one, 3.0) is None
    with pytest.raises(ValueError, match="no aim"):
        Change(0.0, aim="wish")


def test_a_review_goes_where_its_lesson_goes(tmp_path, monkeypatch):
    """Sent and taken in with the lesson, named on the page, deleted with the swing; nobody else's is sent."""
    book = open_book(str(tmp_path / "here.sqlite"))
    document = lesson(tmp_path, "maren-tolhurst-iron")
    other = lesson(tmp_path, "idris-vale-iron")
    for one in (document, other):
        assert file_swing(book, one) is not None
    kept = document.parent / "kept"
    kept.mkdir()
    voice = written(kept / "maren.voice-1.wav", clicks_at([0.2], 1.0))
    own, mixed = kept / "maren.review.json", kept / "both.review.json"
    review = review_of(document, [Change(0.0, swing=0, frame=145)], 0.6, voice)
    save_review(own, review)
    theirs = review_of(other, [], 0.6).swings
    save_review(mixed, replace(review, swings=(*review.swings, *theirs)))
    for path in (own, mixed, Path(voice.path)):
        note_made(book, path, document)
    page = tmp_path / "page.html"
    assert main(["handout", str(document), "--fault", "sway", "--html", str(page), "--no-book"]) == 0
    assert "Spoken review" not in page.read_text("utf-8")
    (kept / "maren.mp4").write_bytes(b"x")
    assert main(["handout", str(document), "--fault", "sway", "--html", str(page), "--no-book"]) == 0
    assert "Spoken review: 0:01 minutes, in the file “maren.mp4”" in page.read_text("utf-8")
    with book.reading() as db:
        student = students.named(db, load_swing(document).golfer)[0].id
    folder = export(book, student, tmp_path / "out")
    (day,) = [path for path in folder.iterdir() if path.is_dir()]
    assert {path.name for path in day.glob("*.review.json")} == {"maren.review.json"}
    sent = load_review(day / "maren.review.json")
    assert all(
        Path(name).parent == day.resolve() for name in (sent.swings[0].document, sent.takes[0].voice.path)
    )
    there = open_book(str(tmp_path / "there.sqlite"))
    take_in(there, folder)
    (came,) = (tmp_path / "lessons").rglob("*.review.json")
    assert load_review(came).seconds == review.seconds
    with there.reading() as db:
        person = students.named(db, load_swing(document).golfer)[0]
    with there.writing() as db:
        hide(db, "student", person.id)
    purge(there, [person.id])
    assert not list((tmp_path / "lessons").rglob("*.review.json")) and not list(
        (tmp_path / "lessons").rglob("*.wav")
    )
    bad = load_review(day / "maren.review.json")
    bad = replace(bad, takes=tuple(replace(one, voice=FileRef("/etc/hosts")) for one in bad.takes))
    with pytest.raises(ParcelError, match="elsewhere"):
        save_review(day / "maren.review.json", bad)
        demand_own(day / "maren.review.json")
    for one in (book, there):
        one.close()
