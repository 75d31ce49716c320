"""An instructor's own files: read once, refused with a sentence, and never in the way of what is shipped."""

from __future__ import annotations

import os
import shutil
from importlib.resources import files

import pytest

from kneel.book import open_book
from kneel.book.index.indexing import file_swing
from kneel.book.repository import students
from kneel.cli.main import main
from kneel.documents.swing_file import SUFFIX
from kneel.judge import in_use
from kneel.judge.knowledge import load, own_folder, shipped
from kneel.model import KnowledgeError, Student
from kneel.practice import catalogue, drills_in_use, read_drills_anew
from tests.desk import CLIP, PATIENCE_MS, in_step, open_clip
from tests.filed import DEMO, MAREN


@pytest.fixture
def own():
    """The folder of one's own files; what was read of it is forgotten before and after."""
    folder = own_folder()
    for name in ("schools", "faults", "drills"):
        (folder / name).mkdir(parents=True)
    yield folder
    shutil.rmtree(folder)
    read_drills_anew()


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("[mine]\nbound = nan\n", "no knowledge"),
        ("[mine]\nbound = -inf\n", "no knowledge"),
        ("[mine]\nbound = 1e400\n", "no knowledge"),
        (f"[mine]\nwhy = {'[' * 3000}{']' * 3000}\n", "no knowledge|not valid"),
        (f"[mine]\nwhy = '{'x' * 5000}'\n", "no knowledge"),
        (f"[mine]\nwhy = [{'1,' * 3000}]\n", "no knowledge"),
        ("[mine\n", "not valid"),
        ("x" * 1_100_000, "too large"),
    ],
)
@pytest.mark.parametrize("folder", ["faults", "drills"])
def test_what_is_no_knowledge_is_refused(own, folder, text, words):
    (own / folder / "mine.toml").write_text(text)
    with pytest.raises(KnowledgeError, match=words) as raised:
        load(own) if folder == "faults" else catalogue.load(shipped(), own)
    assert "Nothing else is changed" in str(raised.value)


def test_a_pipe_or_a_device_is_no_file_of_knowledge(own):
    os.mkfifo(own / "faults" / "a.toml")
    with pytest.raises(KnowledgeError, match="cannot be read"):
        load(own)
    (own / "faults" / "a.toml").unlink()
    (own / "faults" / "b.toml").symlink_to("/dev/zero")
    with pytest.raises(KnowledgeError, match="cannot be read"):
        load(own)


@pytest.mark.parametrize(
    "field", ["{value.__class__}", "{value[0]}", "{value!r}", "{value:>999999999}", "{0}", "{"]
)
def test_a_sentence_asks_for_plain_fields_alone(own, field):
    source = next(
        path
        for path in files("kneel.judge").joinpath("faults").iterdir()
        if path.name.endswith(".toml") and "{value}" in path.read_text()
    )
    (own / "faults" / "mine.toml").write_text(source.read_text())
    load(own)
    (own / "faults" / "mine.toml").write_text(source.read_text().replace("{value}", field, 1))
    with pytest.raises(KnowledgeError, match="sentence"):
        load(own)


def test_a_broken_file_stops_nothing_at_the_desk_and_the_command_line_says_so(
    qtbot, window, own, tmp_path, demo, capsys
):
    """Book, Plan and filing go by what is shipped; mended, it is taken up by one action."""
    (own / "faults" / "mine.toml").write_text("[mine\n")
    (own / "drills" / "mine.toml").write_text("[mine\n")
    assert "faults/mine.toml" in read_drills_anew()
    assert in_use() == shipped() and drills_in_use().all
    book = open_book()
    with book.writing() as db:
        students.save(db, Student("Ida Fenn"), 0)
    day = tmp_path / "2026-11-03"
    day.mkdir()
    for path in (DEMO / day.name).glob(f"{MAREN}.*"):
        shutil.copy(path, day)
    assert file_swing(book, day / f"{MAREN}{SUFFIX}") is not None
    book.close()
    open_clip(qtbot, window, demo / CLIP)
    qtbot.waitUntil(lambda: window.practice.offer.proposal is not None, timeout=PATIENCE_MS)
    in_step(qtbot, window)
    window.go_to(window.plan)
    assert window.practice.begin()
    in_step(qtbot, window)
    assert window.practice.record.key
    assert main(["analyze", str(demo / CLIP)]) == 2 and "faults/mine.toml" in capsys.readouterr().err
    for name in ("faults", "drills"):
        (own / name / "mine.toml").unlink()
    source = next(
        path for path in files("kneel.judge").joinpath("schools").iterdir() if path.name == "centred.toml"
    )
    text = source.read_text()
    (own / "schools" / "centred.toml").write_text(text.replace("title = ", "title = 'Ours' # ", 1))
    window.actions_by_key["read_knowledge"].trigger()
    qtbot.waitUntil(lambda: "Read anew" in window.status_bar.text(), timeout=PATIENCE_MS)
    assert in_use().schools["centred"].title == "Ours"
    qtbot.waitUntil(lambda: window.on_desk.numbers.reading.school.title == "Ours", timeout=PATIENCE_MS)
