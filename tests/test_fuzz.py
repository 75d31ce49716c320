"""Broken files by the hundred: what can be shown is, the rest is one sentence; no crash, no hang."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from tests.clips import STEADY, make

KINDS = {
    "a.mp4": ("libx264", {"bf": "2"}),
    "b.mkv": ("libx264", {}),
    "c.webm": ("libvpx-vp9", {"deadline": "realtime", "cpu-used": "8"}),
    "d.avi": ("mjpeg", {}),
    "e.mov": ("libx265", {"x265-params": "log-level=none", "preset": "ultrafast"}),
}
PER_KIND = 64

LOOK = """
import resource, sys
from pathlib import Path
from kneel.footage import Clip, picture_of
from kneel.footage.sound import read_sound
from kneel.model import KneelError
import numpy as np

source, seed, count = Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3])
whole = source.read_bytes()
rng = np.random.default_rng(seed)
shown = refused = 0
for k in range(count):
    broken = bytearray(whole)
    kind = k % 4
    if kind == 0:
        del broken[int(rng.integers(1, len(broken))):]
    elif kind == 1:
        for at in rng.integers(0, len(broken), 1 + int(rng.integers(0, 40))):
            broken[at] = int(rng.integers(0, 256))
    elif kind == 2:
        at = int(rng.integers(0, len(broken)))
        del broken[at : at + int(rng.integers(1, 400))]
    else:
        at = int(rng.integers(0, len(broken)))
        broken[at:at] = rng.bytes(int(rng.integers(1, 400)))
    path = source.with_name(f"fuzz{k}{source.suffix}")
    path.write_bytes(bytes(broken))
    try:
        with Clip(path) as clip:
            last = clip.info.frames - 1
            for number in (0, last, last // 2):
                picture_of(clip.frame(number), clip.upright)
            read_sound(path, clip.start_s)
        shown += 1
    except KneelError as error:
        assert "\\n" not in str(error) and len(str(error)) > 10
        refused += 1
    path.unlink()
    if k == 3:
        settled = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
grown = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - settled
print(shown, refused, grown // 1024)
"""


@pytest.mark.parametrize("name", KINDS)
def test_mutated_files_never_crash_hang_or_leak(tmp_path, name):
    """64 mutations of each of five kinds, 320 in all, in a process of their own with a bound on time."""
    codec, options = KINDS[name]
    pix_fmt = "yuvj420p" if codec == "mjpeg" else "yuv420p"
    path = make(tmp_path / name, STEADY[:24], codec=codec, pix_fmt=pix_fmt, **options)
    seed = str(sum(map(ord, name)))
    done = subprocess.run(
        [sys.executable, "-c", LOOK, str(path), seed, str(PER_KIND)],
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
    )
    assert done.returncode == 0, done.stderr[-2000:]
    shown, refused, grown_mb = map(int, done.stdout.split())
    assert shown + refused == PER_KIND
    assert shown > 0 and refused > 0
    assert grown_mb < 120
    assert np.isfinite(grown_mb)


def test_a_file_that_goes_while_it_is_open(tmp_path):
    """The clip at hand is read on; opening it anew is refused in a sentence."""
    from kneel.footage import Clip
    from kneel.model import FootageError

    path = make(tmp_path / "clip.mp4", STEADY)
    with Clip(path) as clip:
        assert clip.info.frames == 60
        Path(path).unlink()
        assert clip.frame(30).width == 160
    with pytest.raises(FootageError, match="no file"):
        Clip(path)


def test_a_hundred_thousand_frames(tmp_path):
    """The table of a very long clip is read without decoding it, and its last frame is at hand."""
    from kneel.footage import Clip

    stamps = list(range(100_000))
    path = make_tiny(tmp_path / "long.mkv", stamps)
    with Clip(path) as clip:
        assert clip.info.frames == 100_000
        assert clip.frame(99_999).pts is not None


def make_tiny(path: Path, stamps: list[int]) -> Path:
    """A clip of many tiny frames, quickly: one encoded picture muxed again and again."""
    from fractions import Fraction

    import av

    with av.open(str(path), "w") as container:
        stream = container.add_stream("mjpeg", rate=1000)
        stream.width, stream.height, stream.pix_fmt = 16, 16, "yuvj420p"
        stream.codec_context.time_base = Fraction(1, 1000)
        frame = av.VideoFrame.from_ndarray(np.full((16, 16, 3), 99, np.uint8), format="rgb24")
        frame.pts, frame.time_base = 0, Fraction(1, 1000)
        (packet,) = stream.encode(frame)
        data = bytes(packet)
        for stamp in stamps:
            copy = av.Packet(data)
            copy.pts = copy.dts = stamp
            copy.time_base, copy.stream, copy.is_keyframe = Fraction(1, 1000), stream, True
            container.mux(copy)
    return path
