"""Documents that two desks have open, work that cannot be saved, and clips that were replaced."""

from __future__ import annotations

import multiprocessing
import os
import subprocess
import sys

import msgspec
import pytest

from kneel.documents import recovery
from kneel.documents.finding import clip_of, free_document, others_document
from kneel.documents.keeper import ChangedElsewhereError, Keeper
from kneel.documents.swing_file import disk_stamp, load_stamped, load_swing, save_swing
from kneel.footage.content import content_of
from kneel.model import ClipRef, Mark, Swing, SwingFileError

LOCKED = """
import sys
from pathlib import Path
from kneel.documents.keeper import Keeper
keeper = Keeper(Path(sys.argv[1]), None).hold()
print(keeper.alone, flush=True)
sys.stdin.read()
"""


def opened(path):
    """A keeper that knows the document as it lies there."""
    return Keeper(path, load_stamped(path)[1])


def test_nobody_saves_over_what_another_desk_saved(tmp_path):
    """Of two desks the second to save is told; it may keep both, replace, or take the other's."""
    path = tmp_path / "a.swing.json"
    save_swing(path, Swing(golfer="as it was"))
    one, other = opened(path), opened(path)
    one.save(Swing(golfer="first desk"))
    with pytest.raises(ChangedElsewhereError, match="both states are safe"):
        other.save(Swing(golfer="second desk"))
    assert load_swing(path).golfer == "first desk"
    beside = other.beside(Swing(golfer="second desk"))
    assert load_swing(path).golfer == "first desk" and load_swing(beside.path).golfer == "second desk"
    again = other.beside(Swing(golfer="second desk, later"))
    assert again.path not in (path, beside.path)
    assert other.theirs().golfer == "first desk"
    other.save(Swing(golfer="both agree"))
    with pytest.raises(ChangedElsewhereError):
        one.save(Swing(golfer="too late"))
    one.replace(Swing(golfer="said so"))
    assert load_swing(path).golfer == "said so"


def test_a_state_that_lies_there_already_is_no_clash(tmp_path):
    path = tmp_path / "a.swing.json"
    one, other = Keeper(path, None), Keeper(path, None)
    one.save(Swing(golfer="the same"))
    other.save(Swing(golfer="the same"))
    path.unlink()
    with pytest.raises(ChangedElsewhereError, match="taken away"):
        one.save(Swing(golfer="more"))


def _count(path, turns):
    for _ in range(turns):
        while True:
            keeper = opened(path)
            swing = load_swing(path)
            try:
                mine = swing.given(golfer=str(os.getpid()), complaint=str(int(swing.complaint) + 1))
                keeper.save(mine)
                break
            except ChangedElsewhereError:
                continue


def test_of_saves_at_one_moment_none_is_lost(tmp_path):
    """Four programs that each add to one document end with all that was added."""
    path = tmp_path / "a.swing.json"
    save_swing(path, Swing(complaint="0"))
    programs = [
        multiprocessing.get_context("spawn").Process(target=_count, args=(path, 15)) for _ in range(4)
    ]
    for program in programs:
        program.start()
    for program in programs:
        program.join()
    assert load_swing(path).complaint == "60"
    assert [p.name for p in tmp_path.iterdir()] == ["a.swing.json"]


def test_a_second_program_is_told_and_a_killed_one_holds_nothing(tmp_path):
    path = tmp_path / ("ü" * 120 + ".swing.json")
    words = [sys.executable, "-c", LOCKED, str(path)]
    first = subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
    assert first.stdout.readline() == "True\n"
    assert not Keeper(path, None).hold().alone
    first.kill()
    first.wait()
    ours = Keeper(path, None).hold()
    assert ours.alone and Keeper(path, None).hold().alone, "one program is no other desk to itself"
    ours.release()
    first.stdin.close()
    first.stdout.close()


def test_a_read_only_document_is_never_written_over(tmp_path):
    path = tmp_path / "a.swing.json"
    save_swing(path, Swing(golfer="as it was"))
    path.chmod(0o444)
    with pytest.raises(SwingFileError, match="read-only"):
        opened(path).save(Swing(golfer="changed"))
    assert load_swing(path).golfer == "as it was" and path.stat().st_mode & 0o777 == 0o444


def test_work_kept_aside_comes_back_whole(tmp_path):
    """Kept by the document's place, whatever bytes its name has; a newer state replaces an older one."""
    document = tmp_path / os.fsdecode(b"n\xffme.swing.json")
    clip = ClipRef(str(tmp_path / "a.mp4"), 90, 9, 9, 30.0)
    swing = Swing(golfer="Maren").given(clip=clip, marks=(Mark("head", 3, 1.5, 2.0),))
    recovery.keep(document, Swing(), "an older state")
    file = recovery.keep(document, swing, "the disk is full")
    assert file.stat().st_mode & 0o777 == 0o600
    (one,) = recovery.kept()
    assert (one.document, one.swing, one.why) == (document, swing, "the disk is full")
    (file.parent / "broken.recovery.json").write_text('{"kneel_recovery": 1, ' + "[" * 9999)
    assert recovery.kept() == [one]
    recovery.forget(document)
    assert recovery.kept() == []
    recovery.keep(document, swing, "again")
    recovery.set_aside(recovery.kept()[0])
    recovery.forget(document)
    assert recovery.kept() == [] and any("declined" in p.name for p in file.parent.iterdir())


def test_a_clip_that_was_cut_or_replaced_is_told(tmp_path):
    clip = tmp_path / "x.mp4"
    clip.write_bytes(b"face on" * 400)
    known = ClipRef(str(clip), 90, 9, 9, 30.0, clip.stat().st_size, content_of(clip))
    document = free_document(clip)
    save_swing(document, Swing().given(clip=known))
    assert others_document(clip) is None
    clip.write_bytes(b"face on" * 300)
    assert others_document(clip) == document
    assert free_document(clip).name == "x.mp4.swing.json"
    swing = load_swing(document)
    assert clip_of(swing, document) == clip, "another film under its name, where its own is nowhere"
    own = tmp_path / "renamed.mp4"
    own.write_bytes(b"face on" * 400)
    assert clip_of(swing, document) == own


def test_names_as_long_as_names_can_be_get_a_document(tmp_path):
    for name in ("b" * 251 + ".mp4", "ü" * 125 + ".mp4"):
        clip = tmp_path / name
        clip.write_bytes(b"film")
        document = free_document(clip)
        save_swing(document, Swing(golfer=name[:4]))
        assert document.parent == tmp_path and disk_stamp(document)


@pytest.mark.parametrize(
    ("change", "about"),
    [
        ({"scale": {"type": "typed", "cm_per_px": 0}}, "takes[0].scale: "),
        ({"capture_rate": 0}, "1 to 10000 frames a second, not 0"),
        ({"pinned": {"top": 500.0}}, "pinned on a frame that the clip does not have"),
        ({"marks": [{"point": "head", "frame": 1, "x": 1, "y": 1, "sigma": 1e-300}]}, "0.001 px or more"),
        ({"span": "all"}, "takes[0].span"),
    ],
)
def test_a_wrong_value_is_told_with_its_place(tmp_path, change, about):
    path = tmp_path / "a.swing.json"
    save_swing(path, Swing().given(clip=ClipRef("a.mp4", 90, 9, 9, 30.0)))
    content = msgspec.json.decode(path.read_bytes())
    content["swing"]["takes"][0] |= change
    path.write_bytes(msgspec.json.encode(content))
    with pytest.raises(SwingFileError) as told:
        load_swing(path)
    assert about in str(told.value) and "a.swing.json" in str(told.value)
