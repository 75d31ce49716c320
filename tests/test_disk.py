"""Writing and reading files carefully: modes, links, parts left behind, names that cannot be shown."""

from __future__ import annotations

import fcntl
import os
import stat
import threading
from pathlib import Path

import pytest

from kneel.disk import (
    NotAFileError,
    TooLargeError,
    read_bounded,
    replacing,
    same_file,
    shown,
    write_text,
)

NOTHING = "first"


def mode_of(path: Path) -> int:
    return stat.S_IMODE(path.stat().st_mode)


def test_a_new_private_file_is_for_the_owner_and_for_a_folders_group(tmp_path):
    (tmp_path / "own").mkdir(mode=0o755)
    (tmp_path / "shared").mkdir()
    (tmp_path / "shared").chmod(0o775)
    for folder, mode in (("own", 0o600), ("shared", 0o660)):
        write_text(tmp_path / folder / "a", "x", private=True)
        assert mode_of(tmp_path / folder / "a") == mode
    old = os.umask(0o027)
    try:
        write_text(tmp_path / "own" / "b", "x")
    finally:
        os.umask(old)
    assert mode_of(tmp_path / "own" / "b") == 0o640


def test_an_existing_file_keeps_its_mode_and_a_link_goes_on_leading_to_it(tmp_path):
    real, link = tmp_path / "real", tmp_path / "link"
    real.write_text(NOTHING)
    real.chmod(0o604)
    link.symlink_to(real)
    write_text(link, "second", private=True)
    assert link.is_symlink() and real.read_text() == "second" and mode_of(real) == 0o604


@pytest.mark.parametrize("kind", ["folder", "pipe", "device", "read-only", "no folder"])
def test_what_is_no_file_to_write_is_left_alone(tmp_path, kind):
    path = tmp_path / "it"
    if kind == "folder":
        path.mkdir()
    elif kind == "pipe":
        os.mkfifo(path)
    elif kind == "device":
        path.symlink_to("/dev/null")
    elif kind == "read-only":
        path.write_text(NOTHING)
        path.chmod(0o444)
    else:
        path = tmp_path / "nowhere" / "it"
    before = path.lstat() if kind != "no folder" else None
    with pytest.raises(OSError):
        write_text(path, "x")
    assert kind == "no folder" or path.lstat() == before
    assert not [p for p in tmp_path.iterdir() if p.name.endswith(".part")]


def test_a_block_that_breaks_leaves_the_old_file_and_no_part(tmp_path):
    path = tmp_path / "a"
    path.write_text(NOTHING)
    with pytest.raises(ZeroDivisionError), replacing(path) as part:
        part.write_text("half")
        raise ZeroDivisionError
    assert [p.read_text() for p in tmp_path.iterdir()] == [NOTHING]


def test_parts_left_behind_are_taken_away_and_those_being_written_are_not(tmp_path):
    """A part whose writer was killed goes with the next writing; one still held stays."""
    left, held = tmp_path / ".kneel-abc.part", tmp_path / ".kneel-def.part"
    journals = [path.with_name(f"{path.name}-journal") for path in (left, held)]
    for path in journals:
        path.write_text("x")
    left.write_text("x")
    with held.open("w") as file:
        fcntl.flock(file, fcntl.LOCK_EX)
        write_text(tmp_path / "a", "x")
        assert not left.exists() and held.exists()
        assert [path.exists() for path in journals] == [False, True]
    write_text(tmp_path / "a", "y")
    assert [p.name for p in tmp_path.iterdir()] == ["a"]


def test_many_writers_of_one_folder_do_not_take_each_others_parts(tmp_path):
    wrong: list[BaseException] = []

    def write(k: int) -> None:
        try:
            for n in range(40):
                write_text(tmp_path / f"{k % 2}", f"{k} {n}" * 999, lasting=False)
        except BaseException as error:
            wrong.append(error)

    threads = [threading.Thread(target=write, args=(k,)) for k in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert not wrong
    assert sorted(p.name for p in tmp_path.iterdir()) == ["0", "1"]
    assert all(len(set(p.read_text().split(" "))) <= 1001 for p in tmp_path.iterdir())


def test_reading_is_bounded_and_waits_for_nobody(tmp_path):
    (tmp_path / "a").write_bytes(b"12345")
    assert read_bounded(tmp_path / "a", 5) == b"12345"
    with pytest.raises(TooLargeError):
        read_bounded(tmp_path / "a", 4)
    os.mkfifo(tmp_path / "pipe")
    for path in (tmp_path / "pipe", Path("/dev/zero")):
        with pytest.raises(NotAFileError):
            read_bounded(path, 10)


def test_one_file_is_told_by_links_of_either_kind(tmp_path):
    one = tmp_path / "a"
    one.write_text(NOTHING)
    (tmp_path / "soft").symlink_to("a")
    os.link(one, tmp_path / "hard")
    assert all(same_file(one, tmp_path / name) for name in ("soft", "hard", "./a"))
    assert same_file(tmp_path / "new", tmp_path / "." / "new") and not same_file(one, tmp_path / "new")


def test_shown_names_stand_on_one_line_in_any_encoding():
    for text in ("a\nb\r", "\x1b[31m", "\udcff\ud800", "\u202e\u2028", "\x00"):
        assert shown(text).isprintable() and shown(text).encode("ascii")
    assert shown("Übung 7 – naïve µ.mp4") == "Übung 7 – naïve µ.mp4"
