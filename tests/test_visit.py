"""A whole visit to the ball as a phone films it: which part of it is the swing.

``python -m tests.test_visit`` draws its film anew, which takes longer than all that is asked of it.
"""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt

from kneel.cli.main import main
from kneel.documents.swing_file import load_swing
from kneel.evidence import swings
from kneel.evidence.shelf import Shelf
from kneel.footage import Clip
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot, film
from kneel.sim.routine import Routine
from kneel.sim.swing import SwingPlan
from kneel.vision import installed
from kneel.vision.landmarks.swinging import swings_of
from tests.desk import PATIENCE_MS, press, saved
from tests.test_desk_safety import full_disk
from tests.test_swings import glimpsed

pytestmark = pytest.mark.qt_log_ignore("propagateSizeHints")
needs_model = pytest.mark.skipif(not installed(), reason="without the body model")


FILM = Path(__file__).parent / "data" / "visit.mp4"
SHOOT = Shoot(
    plan=SwingPlan({"sway": 8.0}, routine=Routine(rehearsal=0.85, rehearsal_times=1.0, leaves=True)),
    camera=Camera(width=640, height=360),
    rate=24.0,
    quality=28,
)


@pytest.fixture
def visit(tmp_path):
    """The clip of a whole visit in a folder of its own, and when its swing is."""
    clip = tmp_path / FILM.name
    clip.symlink_to(FILM)
    return clip, SHOOT.motion.checkpoints_s


@needs_model
def test_the_command_line_reads_the_swing_of_a_long_clip(visit, tmp_path, capsys, monkeypatch):
    """The rehearsal, that struck nothing, is not taken for it; what was found is not looked for again."""
    clip, at = visit
    told = tmp_path / "probe.json"
    assert main(["probe", str(clip), "--json", str(told)]) == 0
    (swing,) = json.loads(told.read_text())["swings"]
    assert swing["first"] / 24 < at["address"] < at["finish"] < swing["last"] / 24
    assert swing["last"] - swing["first"] < 24 * 4.5
    monkeypatch.setattr(swings, "seen_swings", None)
    out = tmp_path / "a.json"
    assert main(["analyze", str(clip), "--view", "face-on", "--stature", "176", "--json", str(out)]) == 0
    result = json.loads(out.read_text())
    assert any("one swing" in note for note in result["warnings"])
    assert result["checkpoints"]["top"]["time_s"] == pytest.approx(at["top"], abs=0.06)
    capsys.readouterr()


@needs_model
def test_without_sound_a_rehearsal_is_known_by_the_ball_it_left(visit, tmp_path, monkeypatch):
    clip, at = visit
    with Clip(clip) as opened:
        info = opened.info
    clock = info.real_s(None)
    found = swings_of(glimpsed(SHOOT, clock, noise_px=3.0), clock)
    monkeypatch.setattr(swings, "seen_swings", lambda *asked, **more: found)
    told: list[tuple[int, int]] = []
    seen, spans = swings.swings_in(
        info, "", None, (), Shelf(folder=tmp_path), progress=lambda *now: told.append(now)
    )
    assert told == [(900, 1000), (950, 1000)]
    assert len(found) == 2 and seen
    assert [clock[one.first] < at["address"] < at["finish"] < clock[one.last] for one in spans] == [True]


@needs_model
def test_the_desk_looks_at_the_swing_of_a_long_clip_and_gives_the_whole_back(
    qtbot, window, visit, tmp_path, monkeypatch
):
    """It is looked at alone; an undo takes the whole clip, and leaves it so when it is opened again."""
    monkeypatch.setattr("kneel.desk.swing.intake.installed", lambda: True)
    _, at = visit
    window.open_path(visit[0])
    session = window.on_desk
    qtbot.waitUntil(lambda: session.swing.span is not None, timeout=PATIENCE_MS)
    first, last = session.swing.span
    assert first / 24 < at["address"] < at["finish"] < last / 24 and session.frames == last - first + 1
    qtbot.waitUntil(lambda: "Swing ▸ The whole clip again" in window.status_bar.text(), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: "top" in session.analysis.checkpoints, timeout=PATIENCE_MS)
    top = session.analysis.checkpoints["top"].time_s
    assert top == pytest.approx(at["top"], abs=0.06)
    qtbot.waitUntil(lambda: not session.gathering.busy and not session.numbers.busy, timeout=PATIENCE_MS)
    finding = session.selection.finding
    assert session.cursor.frame == session.numbers.shown(finding.checkpoint), (
        "the picture shows what is wrong"
    )

    press(qtbot, window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    whole = 24 * 9
    qtbot.waitUntil(lambda: session.frames > whole, timeout=PATIENCE_MS)
    session.gathering.stop()
    saved(qtbot, session)
    before = session.store
    window.open_path(session.path)
    qtbot.waitUntil(lambda: session.store not in (None, before), timeout=PATIENCE_MS)
    assert window.opener._splitting is None
    assert session.swing.span == (0, session.frames - 1) and session.frames > whole
    session.gathering.stop()


@needs_model
@pytest.mark.nothing_kept
def test_what_somebody_has_worked_on_stays_whole(qtbot, window, visit, tmp_path, monkeypatch):
    """Nobody who has set a mark meanwhile is told to set marks: Kneel is still looking."""
    monkeypatch.setattr("kneel.desk.swing.intake.installed", lambda: True)
    window.open_path(visit[0])
    session = window.on_desk
    qtbot.waitUntil(lambda: session.store is not None, timeout=PATIENCE_MS)
    session.document.place("head", 3, 30.0, 20.0)
    saved(qtbot, session)
    notes = window.bench.reading.notes
    qtbot.waitUntil(lambda: not session.numbers.busy, timeout=PATIENCE_MS)
    assert "looking for the joints" in notes.text() and "Press M" not in notes.text()
    qtbot.waitUntil(lambda: not session.gathering._held, timeout=PATIENCE_MS)
    assert load_swing(session.path).span is None and session.frames > 24 * 9
    session.gathering.stop()


@needs_model
def test_a_part_that_cannot_be_saved_leaves_the_whole_to_be_looked_at(
    qtbot, window, visit, tmp_path, monkeypatch
):
    monkeypatch.setattr("kneel.desk.swing.intake.installed", lambda: True)
    with full_disk(tmp_path):
        window.open_path(visit[0])
        session = window.on_desk
        qtbot.waitUntil(lambda: "saved" in window.status_bar.text(), timeout=PATIENCE_MS)
        qtbot.waitUntil(lambda: not session.gathering._held, timeout=PATIENCE_MS)
        assert session.swing.span is None and session.frames > 24 * 9
        session.gathering.stop()
    saved(qtbot, session)


if __name__ == "__main__":
    film(SHOOT, FILM)
