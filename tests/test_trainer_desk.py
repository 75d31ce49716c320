"""The Trainer driven by real events: a round from Enter to the scores, a class, the nice process."""

from __future__ import annotations

import sys
import time
from contextlib import nullcontext

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QLabel

from kneel.desk.operations.jobs import Job
from kneel.desk.places.trainer.running import Phase
from kneel.desk.places.trainer.stocking import Stocking
from kneel.desk.shell.window import Window
from kneel.desk.widgets import text
from kneel.desk.widgets.chooser import Chooser
from kneel.model import View
from kneel.trainer.answers import read_answers
from kneel.trainer.classroom import papers, read_class
from kneel.trainer.records import Settings, Sure
from kneel.trainer.stock import OnShelf
from kneel.trainer.truth import present
from tests.desk import PATIENCE_MS
from tests.test_bench import SIZES, longer_words

KEYS = Qt.Key
START = Stocking._start


@pytest.fixture
def trainer(qtbot, window, monkeypatch):
    """The Trainer on show with what ships; swings run by at once."""
    place = window.trainer
    monkeypatch.setattr(type(place.stage), "_speed", property(lambda self: 100.0))
    window.go_to(place)
    qtbot.waitUntil(lambda: len(place.stock.swings) >= 24, timeout=PATIENCE_MS)
    return place


def on(qtbot, trainer, phase):
    qtbot.waitUntil(lambda: trainer.round.phase is phase, timeout=PATIENCE_MS)


def one_round(qtbot, trainer, *planted, **settings):
    """Begin a round of swings with these faults."""
    trainer._actions.settings = Settings(**settings)
    chosen = [next(s for s in trainer.stock.swings if s.stocked.shot.planted == faults) for faults in planted]
    trainer.run(chosen)
    on(qtbot, trainer, Phase.ANSWERING)


def key_of(trainer, fault):
    return KEYS(KEYS.Key_2 + [one.key for one in trainer.round.faults].index(fault))


def test_enter_begins_a_round_and_keys_alone_bring_it_to_an_answer_that_is_kept(qtbot, window, trainer):
    assert trainer.progress.isVisible() and not trainer.stage.isVisible()
    qtbot.keyClick(trainer, KEYS.Key_Return)
    on(qtbot, trainer, Phase.ANSWERING)
    assert trainer.stage.isVisible() and trainer.stage.plain
    stage, round_ = trainer.stage, trainer.round
    qtbot.keyClick(stage, KEYS.Key_Return)
    assert round_.phase is Phase.ANSWERING
    fault = round_.faults[2].key
    qtbot.keyClick(stage, key_of(trainer, fault))
    qtbot.keyClick(stage, KEYS.Key_Up)
    qtbot.keyClick(stage, KEYS.Key_Up)
    qtbot.keyClick(stage, KEYS.Key_C)
    qtbot.keyClick(stage, KEYS.Key_Return)
    assert round_.phase is Phase.ARGUED and not stage.plain
    answer = round_.answer
    assert (answer.named, answer.sure) == ((fault,), Sure.CERTAIN)
    assert answer.said[fault] > 0
    assert answer.present == present(round_.stocked.past)
    qtbot.waitUntil(lambda: read_answers(trainer.kept.path) == [answer], timeout=PATIENCE_MS)
    qtbot.keyClick(stage, KEYS.Key_Return)
    on(qtbot, trainer, Phase.ANSWERING)
    assert round_.at == 1 and round_.named == [] and trainer.trained.stocked is round_.stocked
    qtbot.mouseClick(trainer.begin_button, Qt.MouseButton.LeftButton)
    assert round_.phase is Phase.IDLE and trainer.progress.isVisible()
    qtbot.waitUntil(lambda: trainer.progress.shown.scores.answers == (answer,), timeout=PATIENCE_MS)


def test_the_stick_under_the_hand_is_the_size_and_the_answer_is_argued_on_the_picture(qtbot, trainer):
    one_round(qtbot, trainer, ("slide",), ())
    stage, round_ = trainer.stage, trainer.round
    qtbot.keyClick(stage, key_of(trainer, "slide"))
    qtbot.mouseClick(trainer.question.go_to, Qt.MouseButton.LeftButton)
    assert trainer.trained.checkpoint == "impact"
    per, way = round_.stocked.cm_per_px, 1 if stage.stick.way > 0 else -1
    at = stage.view.to_widget(480.0, 300.0).toPoint()
    end = at + QPoint(round(way * 12.0 / per * stage.view.scale), 5)
    qtbot.mousePress(stage, Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseMove(stage, end)
    qtbot.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=end)
    assert round_.said["slide"] == pytest.approx(12.0, abs=0.6)
    assert trainer.question.slider.value() == pytest.approx(10 * round_.said["slide"], abs=1)
    with_stick = stage.grab().toImage()
    qtbot.keyClick(stage, KEYS.Key_R)
    qtbot.mouseClick(trainer.question.go_on, Qt.MouseButton.LeftButton)
    assert trainer.question.heading.text() == "Right: slide."
    assert "You said +12" in trainer.question.hint.text()
    assert trainer.trained.selection.fault == "slide" and trainer.trained.sight.lines == ("pelvis_shift",)
    assert stage.grab().toImage() != with_stick
    plain = stage.grab().toImage()
    qtbot.keyClick(stage, KEYS.Key_Z)
    qtbot.waitUntil(lambda: trainer.trained.aim.study is not None, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: stage.grab().toImage() != plain, timeout=PATIENCE_MS)
    qtbot.keyClick(stage, KEYS.Key_Return)
    on(qtbot, trainer, Phase.ANSWERING)
    qtbot.keyClick(stage, KEYS.Key_1)
    qtbot.keyClick(stage, KEYS.Key_G)
    qtbot.keyClick(stage, KEYS.Key_Return)
    assert trainer.question.heading.text() == "Right: nothing is wrong."
    qtbot.keyClick(stage, KEYS.Key_Return)
    assert trainer.round.phase is Phase.OVER and "2 of 2 right" in trainer.where.text()
    assert trainer.question.heading.text() == "The round is over: 2 of 2 right."


def test_what_is_shown_once_cannot_be_stepped_through_until_it_is_answered(qtbot, trainer):
    one_round(qtbot, trainer, ("sitting",), shown="full")
    stage, cursor = trainer.stage, trainer.trained.cursor
    for key in (KEYS.Key_Right, KEYS.Key_Space, KEYS.Key_End, KEYS.Key_Z):
        qtbot.keyClick(stage, key)
    assert cursor.frame == 0 and not stage.player.playing
    qtbot.keyClick(stage, KEYS.Key_1)
    qtbot.keyClick(stage, KEYS.Key_H)
    qtbot.keyClick(stage, KEYS.Key_Return)
    assert trainer.question.heading.text() == "Missed: sitting posture."
    here = cursor.frame
    qtbot.keyClick(stage, KEYS.Key_Right)
    assert cursor.frame == here + 1


def test_no_more_is_named_than_a_swing_may_have(qtbot, trainer):
    one_round(qtbot, trainer, ("posture_loss", "trail_knee_kick"), most=2)
    keys = [key_of(trainer, fault) for fault in ("sitting", "posture_loss", "trail_knee_kick")]
    for key in keys:
        qtbot.keyClick(trainer.stage, key)
    assert trainer.round.named == ["posture_loss", "trail_knee_kick"]
    qtbot.keyClick(trainer.stage, keys[1])
    assert trainer.round.named == ["trail_knee_kick"]
    qtbot.keyClick(trainer.stage, KEYS.Key_1)
    assert trainer.round.nothing and not trainer.round.named


def test_settings_are_kept_and_stay_while_a_round_runs(qtbot, window, trainer):
    qtbot.mouseClick(trainer.tokens.tokens["eye_view"], Qt.MouseButton.LeftButton)
    chooser = window.findChild(Chooser)
    next(one for one in chooser.choices if one.title == "face-on").act()
    chooser.close()
    assert trainer.settings.view is View.FACE_ON
    again = type(trainer)(window.on_desk, trainer.context, window.practice)
    assert again.settings == trainer.settings
    qtbot.keyClick(trainer, KEYS.Key_Return)
    on(qtbot, trainer, Phase.ANSWERING)
    assert all(one.stocked.shot.view is View.FACE_ON for one in trainer.round.swings)
    trainer._actions.change(view=None)
    assert trainer.settings.view is View.FACE_ON
    again.deleteLater()


def test_a_swing_that_cannot_be_shown_is_said_and_the_round_goes_on(qtbot, trainer, tmp_path):
    told = []
    trainer.failed.connect(told.append)
    real = trainer.stock.swings[0]
    gone = OnShelf(tmp_path, trainer.stock.swings[1].stocked)
    trainer.run([gone, real])
    on(qtbot, trainer, Phase.ANSWERING)
    assert trainer.round.on is real and len(trainer.round.swings) == 1
    assert len(told) == 1 and "goes on without it" in told[0]


def test_a_class_answers_on_its_own_desk_into_its_folder(qtbot, trainer, tmp_path):
    room = trainer._actions.classroom
    folder = tmp_path / "tuesday"
    trainer._actions.settings = Settings(view=View.FACE_ON, swings=10)
    room.make(folder, "Tuesday")
    qtbot.waitUntil(lambda: (folder / "round.json").exists() and not room._lane.busy, timeout=PATIENCE_MS)
    trainer._actions.settings = Settings()
    room.read(folder, lambda opened: room.sit(opened, "Ida Fenn"))
    on(qtbot, trainer, Phase.ANSWERING)
    assert trainer.where.text().startswith("Ida Fenn")
    qtbot.keyClick(trainer.stage, KEYS.Key_1)
    qtbot.keyClick(trainer.stage, KEYS.Key_C)
    qtbot.keyClick(trainer.stage, KEYS.Key_Return)
    qtbot.waitUntil(lambda: papers(read_class(folder))[0][0].answers != (), timeout=PATIENCE_MS)
    assert trainer.kept.answers == []
    trainer._actions.begin_or_end()
    room.read(folder, lambda opened: room.sit(opened, "ida fenn"))
    on(qtbot, trainer, Phase.ANSWERING)
    assert len(trainer.round.swings) == len(read_class(folder).swings) - 1
    sheet = folder / "scores.csv"
    room.read(folder, lambda opened: room.write_sheet(opened, sheet))
    qtbot.waitUntil(sheet.exists, timeout=PATIENCE_MS)
    assert sheet.read_text().splitlines()[1].startswith("Ida Fenn,1,")
    told = []
    trainer.failed.connect(told.append)
    room.read(tmp_path, lambda opened: None)
    qtbot.waitUntil(lambda: bool(told), timeout=PATIENCE_MS)
    assert "no round for a class" in told[0]


MAKER = """
import sys
for line in sys.stdin:
    said = line.strip()
    print(said if said in ("rest", "go on") else "made-one", flush=True)
"""


def test_the_nice_process_rests_while_anything_else_is_under_way_and_ends(
    qtbot, window, tmp_path, monkeypatch
):
    monkeypatch.setattr(Stocking, "_start", START)
    jobs = window.jobs
    stocking = Stocking(tmp_path, jobs, window)
    stocking.command = [sys.executable, "-c", MAKER]
    heard, rooms = [], []
    stocking.made.connect(heard.append)
    stocking.room = lambda: rooms.append(1) or len(rooms) < 3
    stocking.want(Settings(), 0, 5)
    process = stocking._process
    qtbot.waitUntil(lambda: stocking._process is None, timeout=PATIENCE_MS)
    assert heard == ["made-one"] * 3
    assert process.wait(5) is not None
    stocking.room = lambda: time.sleep(0.01) or True
    stocking.want(Settings(), 0, 5)
    assert stocking.working
    job = jobs.add(Job("", lambda: None, 0, 1))
    jobs.changed.emit()
    assert not stocking.working
    qtbot.waitUntil(lambda: "rest" in heard, timeout=PATIENCE_MS)
    job.total = 0
    jobs.changed.emit()
    qtbot.waitUntil(lambda: "go on" in heard, timeout=PATIENCE_MS)
    stocking.want(Settings(), 1000, 5)
    assert not stocking.working
    process = stocking._process
    stocking.end()
    assert process.wait(5) is not None


def test_forgetting_takes_all_answers_away_for_good(qtbot, trainer):
    one_round(qtbot, trainer, ("slide",))
    for key in (KEYS.Key_1, KEYS.Key_H, KEYS.Key_Return):
        qtbot.keyClick(trainer.stage, key)
    qtbot.waitUntil(trainer.kept.path.exists, timeout=PATIENCE_MS)
    trainer._actions.begin_or_end()
    chooser = trainer._actions.ask_to_forget()
    chooser.choices[1].act()
    assert trainer.kept.answers == []
    qtbot.waitUntil(lambda: not trainer.kept.path.exists(), timeout=PATIENCE_MS)


@pytest.mark.parametrize("long", [False, True], ids=["english", "longer"])
def test_no_word_of_the_trainer_is_cut_off(qtbot, window, trainer, long):
    """Idle, asked and argued, at four sizes, in words a third longer too."""
    with longer_words() if long else nullcontext():
        seen, place = window, trainer
        if long:
            seen = Window(window._look, window._settings)
            qtbot.addWidget(seen)
            seen.show()
            place = seen.trainer
            seen.go_to(place)
            qtbot.waitUntil(lambda: len(place.stock.swings) >= 24, timeout=PATIENCE_MS)

        def fits():
            for size in SIZES if long else ((840, 520), *SIZES):
                seen.resize(*size)
                for _ in range(60):
                    if not words_cut(place, seen):
                        break
                    qtbot.wait(20)
                assert words_cut(place, seen) == []

        fits()
        one_round(qtbot, place, ("posture_loss", "trail_knee_kick"), most=2)
        for key in ("backswing_thrust", "sitting"):
            place.round.name(key)
        place.round.say_size(3.0)
        fits()
        place.round.say_sure(Sure.RATHER)
        place.go_on()
        fits()
        if long:
            seen.close()


def words_cut(place, seen):
    with text.cuts() as found:
        seen.grab()
    words = [one.words for one in found]
    for label in place.findChildren(QLabel):
        if label.isVisibleTo(place) and label.text() and label.wordWrap():
            words += [label.text()] * (label.heightForWidth(label.width()) > label.height() + 1)
    return words


def test_closing_the_desk_ends_the_round_and_the_process(qtbot, window, trainer, monkeypatch):
    monkeypatch.setattr(Stocking, "_start", START)
    trainer.stocking.command = [sys.executable, "-c", MAKER]
    trainer.stocking.room = lambda: time.sleep(0.05) or True
    trainer.stocking.want(Settings(), 0, 5)
    process = trainer.stocking._process
    qtbot.keyClick(trainer, KEYS.Key_Return)
    on(qtbot, trainer, Phase.ANSWERING)
    window.close()
    assert trainer.trained.store is None
    assert process.wait(5) is not None
