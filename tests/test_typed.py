"""Words and numbers as anybody types them: shown as they stand, read as they are meant, never cut unsaid."""

from __future__ import annotations

import re
from pathlib import Path

from PyQt6.QtCore import QLocale, Qt
from PyQt6.QtWidgets import QAbstractItemView, QLabel, QWidget

import kneel.desk
from kneel.desk.widgets.entry import Entry
from kneel.model import Override
from tests.desk import CLIP, in_step, open_clip

HOSTILE = '<img src="/dev/zero"> & <b>Ida</b>'


def test_no_words_are_taken_for_markup(qtbot, window, demo):
    """Whatever is typed as a name or a reason: every label shows it as it stands, every tooltip too."""
    open_clip(qtbot, window, demo / CLIP)
    session = window.on_desk
    session.set("Name", golfer=HOSTILE)
    session.selection.choose("sway")
    session.set("Say", overrides=(Override("sway", "rejected", HOSTILE),), complaint=HOSTILE)
    in_step(qtbot, window)
    window.practice.set("Note", notes=HOSTILE, goals=HOSTILE)
    tips, shown = [], []
    for place in window.places:
        window.go_to(place)
        in_step(qtbot, window)
        for widget in window.findChildren(QWidget):
            tips.append(widget.toolTip())
            if isinstance(widget, QAbstractItemView) and widget.model() is not None:
                model = widget.model()
                rows = [model.index(k, 0) for k in range(model.rowCount())]
                tips += [str(index.data(Qt.ItemDataRole.ToolTipRole) or "") for index in rows]
        for label in window.findChildren(QLabel):
            assert label.textFormat() is not Qt.TextFormat.AutoText, label.text()
            if HOSTILE in label.text():
                shown.append(label)
                assert label.textFormat() is Qt.TextFormat.PlainText
    assert shown and any("&lt;img" in words for words in tips)
    assert not [words for words in tips if "<img" in words]
    window.status_bar.complain(HOSTILE)
    assert "<img" not in window.status_bar.message.toolTip()


def test_a_number_is_read_with_a_point_or_a_comma(qtbot, window):
    """On any desk: both are decimal, and no digits are grouped."""
    before = QLocale()
    try:
        for land in (QLocale.Language.English, QLocale.Language.German, QLocale.Language.French):
            QLocale.setDefault(QLocale(land))
            for typed, value in (("171,5", 171.5), ("171.5", 171.5), ("1,715", None), ("1.7.5", None)):
                taken = []
                entry = Entry(
                    window, window._look, "Height", taken.append, number=(170, 80, 250, 1), unit="cm"
                )
                entry.open()
                entry.field.selectAll()
                qtbot.keyClicks(entry.field, typed)
                entry.accept()
                assert taken == [value] if value is not None else taken[0] < 175
    finally:
        QLocale.setDefault(before)


def test_a_line_says_what_it_does_not_take_and_keeps_what_it_was_given(qtbot, window, monkeypatch):
    said = []
    monkeypatch.setattr(
        "kneel.desk.widgets.entry.QToolTip.showText", lambda at, words, widget: said.append(words)
    )
    taken = []
    entry = Entry(window, window._look, "Name", taken.append, words="x" * 118, most=120)
    entry.open()
    entry.field.end(False)
    qtbot.keyClicks(entry.field, "abc")
    entry.accept()
    assert taken == ["x" * 118 + "ab"] and "120 letters fit here" in said[0]
    lines = Entry(window, window._look, "Wants", taken.append, words="a draw\nno pain", most=20_000)
    lines.open()
    lines.accept()
    assert taken[-1] == "a draw\nno pain"


def test_there_is_one_label_and_one_way_to_a_tooltip():
    """A label of Qt's own would take words for markup; what is ours is known by the sources themselves."""
    found = []
    for path in Path(kneel.desk.__file__).parent.rglob("*.py"):
        words = path.read_text()
        if path.name != "text.py":
            found += re.findall(r"\bQLabel\(", words)
        # What is not a fixed sentence goes through the helper.
        calls = re.findall(r"setToolTip\((.*)", words)
        found += [call for call in calls if not call.startswith(("tr(", "tip(", '"" if'))]
    assert found == []
