"""What a command writes never destroys what is there, and what it says is one sentence."""

from __future__ import annotations

import hashlib
import os
import subprocess
import sys
from pathlib import Path

import pytest

from kneel.cli.main import main
from tests.clips import make, numbered
from tests.test_cli import points_file

DOCUMENT = "maren-tolhurst-iron.swing.json"
CLIP = "maren-tolhurst-iron.mp4"


def state(folder: Path) -> dict[str, str]:
    return {p.name: hashlib.sha256(p.read_bytes()).hexdigest() for p in folder.iterdir() if p.is_file()}


def refused(capsys, *words: str) -> str:
    """The one sentence with which a command is refused."""
    assert main(list(words)) == 2
    told = capsys.readouterr().err
    assert told.startswith("kneel: ") and told.count("\n") == 1
    return told


@pytest.fixture
def lesson(demo, simulate):
    """The demo's lesson with points, links to its clip, and the folder at hand."""
    points_file(demo / "points.csv", simulate())
    (demo / "ebba.student.json").write_text("{}")
    (demo / "soft.csv").symlink_to("points.csv")
    os.link(demo / CLIP, demo / "hard.mp4")
    os.link(demo / "points.csv", demo / "hard.csv")
    (demo / "soft.mp4").symlink_to(demo / CLIP)
    return demo


@pytest.mark.parametrize(
    "words",
    [
        ("still", CLIP, "--frame", "3", "--out", CLIP),
        ("still", CLIP, "--frame", "3", "--out", "hard.mp4"),
        ("still", CLIP, "--frame", "3", "--out", f"./{DOCUMENT}"),
        ("probe", CLIP, "--json", "soft.mp4"),
        ("probe", "soft.mp4", "--json", CLIP),
        ("analyze", "points.csv", "--json", "points.csv"),
        ("analyze", "points.csv", "--json", "soft.csv"),
        ("analyze", "soft.csv", "--json", "hard.csv"),
        ("analyze", CLIP, "--json", DOCUMENT),
        ("analyze", DOCUMENT, "--json", CLIP),
        ("plan", "points.csv", "--json", "points.csv"),
        ("plan", "points.csv", "--ics", "hard.csv"),
        ("plan", "points.csv", "--json", "x.json", "--ics", "x.json"),
        ("plan", "points.csv", "--ics", DOCUMENT),
        ("plan", "points.csv", "--ics", "ebba.student.json"),
        ("changed", "points.csv", "--after", "hard.csv", "--json", "points.csv"),
        ("compare", "points.csv", "hard.csv", "--json", "points.csv"),
        ("compare", "points.csv", DOCUMENT, "--json", CLIP),
        ("handout", DOCUMENT, "--pdf", DOCUMENT),
        ("handout", DOCUMENT, "--html", "hard.mp4"),
        ("handout", DOCUMENT, "--clip", CLIP),
        ("handout", DOCUMENT, "--pdf", "x.pdf", "--html", "x.pdf"),
        ("book", "backup", DOCUMENT),
        ("book", "backup", CLIP),
        ("book", "backup", "points.csv"),
        ("book", "backup", "soft.csv"),
        ("track", CLIP, "--out", CLIP),
        ("track", CLIP, "--out", DOCUMENT),
        ("track", CLIP, "--out", CLIP + ".evidence"),
        ("track", CLIP, "--marks", "points.csv", "--out", "points.csv"),
        ("simulate", "--out", "new.mp4", "--truth", DOCUMENT),
        ("simulate", "--out", "new.mp4", "--truth", CLIP),
        ("simulate", "--out", "new.mp4", "--truth", "./new.mp4"),
        ("simulate", "--out", "new.mp4", "--points", "x.csv", "--plate", "x.csv"),
        ("simulate", "--out", CLIP),
        ("simulate", "--out", "hard.mp4"),
    ],
)
def test_no_output_replaces_what_is_read_or_marked(lesson, monkeypatch, capsys, words):
    monkeypatch.chdir(lesson)
    before = state(lesson)
    refused(capsys, *words)
    assert state(lesson) == before


@pytest.mark.parametrize("place", ["nowhere/x", "folder", "pipe", "/dev/null", "ro.csv", "", "/", "folder/"])
@pytest.mark.parametrize("command", ["track", "analyze", "still", "simulate"])
def test_the_way_out_is_looked_at_before_the_work(lesson, monkeypatch, capsys, command, place):
    """Nothing is gathered, and nothing filmed, for an output that cannot be written."""
    monkeypatch.chdir(lesson)
    (lesson / "folder").mkdir()
    os.mkfifo(lesson / "pipe")
    (lesson / "ro.csv").write_text("mine")
    (lesson / "ro.csv").chmod(0o444)

    def work(*_: object, **__: object) -> None:
        raise AssertionError("work was begun")

    for place_of_work in (
        "kneel.cli.follow.Document.gathered",
        "kneel.sim.film.film",
        "kneel.footage.clip.Clip.frame",
    ):
        monkeypatch.setattr(place_of_work, work)
    words = {
        "track": ("track", CLIP, "--out", place),
        "analyze": ("analyze", CLIP, "--json", place)
        if place
        else ("still", CLIP, "--frame", "1", "--out", ""),
        "still": ("still", CLIP, "--frame", "1", "--out", place),
        "simulate": ("simulate", "--out", place or "/"),
    }[command]
    assert "cannot be written" in refused(capsys, *words)
    assert (lesson / "ro.csv").read_text() == "mine" and (lesson / "pipe").is_fifo()


def test_a_simulated_film_may_be_made_anew_until_it_is_marked(tmp_path, monkeypatch, capsys):
    monkeypatch.chdir(tmp_path)
    words = ["simulate", "--out", "a.mp4", "--size", "160x160", "--fps", "10", "--still", "0.1"]
    assert main(words) == 0 == main(words)
    (tmp_path / "a.swing.json").write_text(
        '{"kneel_swing": 1, "swing": {"takes": [{"clip": {"path": "a.mp4", "frames": 9, "width": 9,'
        ' "height": 9, "rate_stored": 10}}]}}'
    )
    assert "has been marked" in refused(capsys, *words)
    assert not [p for p in tmp_path.iterdir() if p.name.startswith(".")]


def test_an_output_may_be_standard_output(demo, simulate, tmp_path):
    """Whole and alone, whatever characters the terminal knows."""
    path = points_file(tmp_path / "p.csv", simulate(sway=6))
    environment = os.environ | {"PYTHONIOENCODING": "ascii", "LC_ALL": "C", "PYTHONUTF8": "0"}

    def run(*words: str, out=subprocess.PIPE) -> subprocess.CompletedProcess[bytes]:
        command = [sys.executable, "-m", "kneel.cli.main", *words]
        start = "import sys; from kneel.cli.main import main; sys.exit(main(sys.argv[1:]))"
        command[1:3] = ["-c", start]
        return subprocess.run(command, stdout=out, stderr=subprocess.PIPE, env=environment, check=False)

    still = run("still", str(demo / CLIP), "--frame", "3", "--out", "-")
    assert (
        still.returncode == 0 and still.stdout.startswith(b"\x89PNG") and still.stdout.endswith(b"\xaeB`\x82")
    )
    for words in (("analyze", str(path), "--stature", "176"), ("analyze", str(path), "--json", "-")):
        done = run(*words)
        assert done.returncode == 0, done.stderr
        done.stdout.decode("ascii" if "--json" not in words else "utf-8")
    with Path("/dev/full").open("wb") as full:
        for words in (("analyze", str(path), "--json", "-"), ("probe", str(demo / CLIP))):
            done = run(*words, out=full)
            assert done.returncode == 2 and done.stderr.count(b"\n") == 1, done.stderr
            assert b"No space left" in done.stderr


HEAD = "frame,time_s,point,x_px,y_px\n"


@pytest.mark.parametrize(
    ("rows", "about"),
    [
        ("9223372036854775808,0,grip,1,1\n1,1,grip,1,1", "whole number from 0 to"),
        ("1e300,0,grip,1,1\n1,1,grip,1,1", "whole number from 0 to"),
        ("0,1e250,grip,1,1\n1,1,grip,1,1", "no time within a clip"),
        ("0,0,grip,1,1\n1,1e-9,grip,1,1\n2,2e-9,grip,1,1", "which no camera films"),
        ("\n".join(f"{k},{k / 60 + 1e6 * (k > 60)},grip,{k},1" for k in range(120)), "a swing at most 600"),
        ("0,0,\x1b[31mgrip,1,1\n1,1,grip,1,1", "\\x1b[31mgrip"),
    ],
)
def test_points_that_no_camera_films_are_refused_at_once(tmp_path, capsys, rows, about):
    path = tmp_path / "p\n.csv"
    path.write_text(HEAD + rows)
    assert about in refused(capsys, "analyze", str(path))


@pytest.mark.parametrize(
    ("words", "about"),
    [
        (("analyze", "points.csv", "--fps-capture", "0"), "--fps-capture takes 1 to 10000"),
        (("simulate", "--out", "a.mp4", "--seed", "-1"), "--seed takes 0 to"),
        (("analyze", "points.csv", "--checkpoint", "top=9", "--checkpoint", "address=90"), "is set before"),
        (("probe", "a" * 5000), "cannot be read (File name too long)"),
        (("analyze", "a\0b"), "no name of a file"),
        (("analyze", "/dev/zero"), "no regular file"),
        (("track", "pipe", "--out", "x.csv"), "no regular file"),
        (("analyze", "deep.swing.json"), "not a swing file"),
        (("analyze", "bytes.csv"), "not a points file in UTF-8"),
        (("probe", "no\nsuch\x1b[2J.mp4"), "no\\nsuch\\x1b[2J.mp4"),
        (("probe", "\udcff.mp4"), "\\udcff.mp4"),
    ],
)
def test_odd_words_are_answered_in_one_sentence(lesson, monkeypatch, capsys, words, about):
    monkeypatch.chdir(lesson)
    os.mkfifo(lesson / "pipe")
    (lesson / "deep.swing.json").write_text('{"kneel_swing": 1, "swing": ' + '{"a":' * 50000)
    (lesson / "bytes.csv").write_bytes(HEAD.encode() + b"0,0,\xff\xfe,1,1\n")
    assert about in refused(capsys, *words)


def test_a_name_of_any_bytes_is_told_in_json(tmp_path, capsys):
    import json

    path = tmp_path / os.fsdecode(b"n\xff\x1b.mp4")
    make(path, list(range(0, 400, 10)))
    assert main(["probe", str(path), "--json", str(tmp_path / "out.json")]) == 0
    assert json.loads((tmp_path / "out.json").read_bytes())["frames"] == 40
    assert "\x1b" not in capsys.readouterr().out
    assert numbered(1).shape[2] == 3
