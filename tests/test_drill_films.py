"""The instructor's own films of drills: kept once, offered on the Plan, named on the page and beside it."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt

from kneel.cli.main import main
from kneel.desk.places.plan.actions import QFileDialog
from kneel.desk.widgets.chooser import Chooser
from kneel.handout.content import film_title
from kneel.model import UsageError
from kneel.practice import known_drills
from kneel.practice.films import film_of, keep_film, take_away
from tests.desk import CLIP, PATIENCE_MS, in_step, open_clip, press
from tests.filed import DEMO
from tests.test_bench import panel_of
from tests.test_handout import lesson

FILM = DEMO / "2026-11-03" / CLIP


def test_a_film_is_kept_replaced_and_taken_away(tmp_path):
    key = next(iter(known_drills().all))
    assert film_of(key) is None
    kept = keep_film(key, FILM)
    assert film_of(key) == kept and kept.read_bytes() == FILM.read_bytes()
    other = tmp_path / "mine.MOV"
    other.write_bytes(b"another film")
    assert keep_film(key, other) == film_of(key) and not kept.exists()
    assert film_of(key).read_bytes() == b"another film"
    (tmp_path / "words.txt").write_text("no film")
    for wrong in (tmp_path / "words.txt", tmp_path / "gone.mp4"):
        with pytest.raises(UsageError, match=r"no film|nothing was changed"):
            keep_film(key, wrong)
        assert film_of(key).read_bytes() == b"another film"
    take_away(key)
    assert film_of(key) is None


def test_the_plan_offers_it_and_the_page_takes_it_along(qtbot, window, demo, monkeypatch, tmp_path):
    open_clip(qtbot, window, demo / CLIP)
    in_step(qtbot, window)
    press(qtbot, window, Qt.Key.Key_F3)
    plan = window.plan
    qtbot.waitUntil(lambda: plan.looked_at is not None, timeout=PATIENCE_MS)
    drill = plan.looked_at.drill
    assert plan.how.film.text() == "Add a film of your own …"
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(FILM), ""))
    plan.how.film.click()
    qtbot.waitUntil(lambda: bool(window.findChildren(Chooser)), timeout=PATIENCE_MS)
    (choice,) = panel_of(window, Chooser).choices
    choice.act()
    qtbot.waitUntil(lambda: plan.how.film.text() == "Your film of it …", timeout=PATIENCE_MS)
    assert film_of(drill.key).read_bytes() == FILM.read_bytes()
    page = tmp_path / "page.html"
    document = lesson(tmp_path, "maren-tolhurst-iron")
    assert main(["handout", str(document), "--fault", "sway", "--html", str(page), "--no-book"]) == 0
    told = page.read_text("utf-8")
    for key in known_drills().all:
        keep_film(key, FILM)
    assert main(["handout", str(document), "--fault", "sway", "--html", str(page), "--no-book"]) == 0
    told = page.read_text("utf-8")
    named = [one for one in known_drills().all.values() if f"film “{film_title(one)}”" in told]
    assert len(named) == 1
    press(qtbot, window, Qt.Key.Key_F12)
    window.actions_by_key["save_pdf"].trigger()
    kept = demo / "kept"
    qtbot.waitUntil(lambda: kept.exists() and any(kept.glob("*.pdf")), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: any("Drill, " in path.name for path in kept.glob("*.mp4")), timeout=PATIENCE_MS)
