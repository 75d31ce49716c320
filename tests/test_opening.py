"""Nothing is opened but the clip that was asked for, and what is no film is named as what it is."""

from __future__ import annotations

import os
import re
import shutil
import socket
import struct
import subprocess
import sys
import threading
from fractions import Fraction
from pathlib import Path
from typing import IO

import av
import numpy as np
import pytest
from av.codec.context import CodecContext

from kneel.cli.main import main
from kneel.footage import Clip, container, write_clip
from kneel.footage.container import FORMATS
from kneel.footage.sound import RATE, read_sound
from kneel.model import FootageError
from kneel.sim.sound import swing_sound
from tests.fuzzing.clips import parsed, written

LISTS = {
    "list.m3u8": "#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\n{other}\n#EXT-X-ENDLIST\n",
    "playlist.mp4": "#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\n{other}\n#EXT-X-ENDLIST\n",
    "list.ffconcat": "ffconcat version 1.0\nfile {other}\n",
    "concat.mp4": "ffconcat version 1.0\nfile {other}\n",
    "session.mp4": "v=0\no=- 0 0 IN IP4 127.0.0.1\ns=-\nc=IN IP4 127.0.0.1\nt=0 0\nm=video 9 RTP/AVP 96\n",
}


@pytest.fixture
def film(tmp_path):
    """A small film with sound."""
    path = tmp_path / "film.mp4"
    noise = np.random.default_rng(1).integers(0, 255, (12, 96, 160, 3), dtype=np.uint8)
    write_clip(path, noise, rate=30.0, size=(160, 96), sound=(swing_sound(0.4, 0.2, 1), RATE))
    return path


@pytest.mark.parametrize("name", LISTS)
def test_a_list_that_names_other_files_opens_none_of_them(film, capsys, name, monkeypatch):
    """Seen by the library's own open callback, and told apart from a broken film."""
    path = film.with_name(name)
    path.write_text(LISTS[name].format(other=film))
    asked: dict[str, IO[bytes]] = {}
    real = av.open

    def given(url: str, flags: int, options: object) -> IO[bytes]:
        return asked.setdefault(url, Path(url.removeprefix("file:")).open("rb"))

    def watched(file: str, **options: object) -> object:
        return real(file, io_open=given, **options)

    monkeypatch.setattr(container.av, "open", watched)
    with pytest.raises(FootageError, match="not a film"):
        Clip(path)
    assert set(asked) <= {f"file:{path}"}
    with Clip(film) as clip:
        assert clip.info.frames == 12
    assert set(asked) - {f"file:{path}"} == {f"file:{film}"}
    for file in asked.values():
        file.close()


@pytest.mark.parametrize(
    "name", ["12:30.mp4", "x%d.mp4", "http:a.mp4", "file:b.mp4", "pipe:0", "-.mp4", "a\nb.mp4"]
)
def test_a_film_may_have_any_name(film, monkeypatch, capsys, name):
    odd = film.rename(film.with_name(name))
    monkeypatch.chdir(odd.parent)
    assert main(["still", "--frame", "5", "--out", "out.png", "--", name]) == 0 if name[0] != "-" else True
    assert read_sound(name, 0.0) is not None
    assert main(["probe", str(odd.absolute())]) == 0


@pytest.mark.parametrize(
    "address", ["http:127.0.0.1:{port}", "http://127.0.0.1:{port}/a.mp4", "tcp://127.0.0.1:{port}"]
)
def test_an_address_is_no_name_of_a_film(tmp_path, monkeypatch, capsys, address):
    monkeypatch.chdir(tmp_path)
    with socket.create_server(("127.0.0.1", 0)) as server:
        server.settimeout(0.3)
        port = server.getsockname()[1]
        for command in ("probe", "analyze"):
            assert main([command, address.format(port=port)]) == 2
        assert "There is no file" in capsys.readouterr().err
        with pytest.raises(TimeoutError):
            server.accept()


@pytest.mark.skipif(shutil.which("strace") is None, reason="strace is not installed")
def test_the_system_sees_one_file_opened_and_no_socket(film, tmp_path):
    """Of the clip's folder nothing but the clip is opened, though lists and other films lie in it."""
    for name, text in LISTS.items():
        film.with_name(name).write_text(text.format(other="film.mp4"))
    log = tmp_path / "strace.log"
    start = "import sys; from kneel.cli.main import main; print([main(['probe', x]) for x in sys.argv[1:]])"
    # The lists without the film, which each of them would have to open to follow it.
    for names, codes in ((("film.mp4",), [0]), (tuple(LISTS), [2] * len(LISTS))):
        words = ["strace", "-f", "-e", "trace=open,openat,openat2,socket,connect", "-o", str(log)]
        words += [sys.executable, "-c", start, *(str(film.with_name(name)) for name in names)]
        done = subprocess.run(words, capture_output=True, check=False, text=True)
        if "ptrace" in done.stderr:
            pytest.skip("tracing is not allowed here")
        assert done.stdout.splitlines()[-1] == str(codes), done.stderr
        seen = log.read_text(errors="replace")
        opened = set(re.findall(rf'open\w*\([^"]*"({re.escape(str(film.parent))}/[^"]+)"', seen))
        assert opened == {str(film.with_name(name)) for name in names}
        assert not re.search(r"^\d+ +(socket|connect)\(", seen, re.MULTILINE)


def test_no_kind_is_opened_that_leads_elsewhere():
    """Of what the library can read, none that names other files or addresses is on the list."""
    leading = {
        "hls",
        "concat",
        "dash",
        "image2",
        "sdp",
        "rtsp",
        "applehttp",
        "tee",
        "lavfi",
        "mpegtsraw",
        "webm_dash_manifest",
    }
    assert not leading & set(FORMATS.split(","))
    assert set(FORMATS.split(",")) <= {part for name in av.formats_available for part in name.split(",")}


HEADS = {
    "a.mp4": (b"II*\0" + bytes(900), "a picture (TIFF)"),
    "b.mov": (b"\x89PNG\r\n\x1a\n" + bytes(900), "a picture (PNG)"),
    "c.mp4": (b"\0\0\0\1\x67\x42\0\x1e" + bytes(900), "a bare stream of pictures"),
    "d.mp4": (b"notes on a swing\n" * 9, "text, not a film"),
    "e.mp4": (b"PK\x03\x04" + bytes(900), "a packed folder"),
    "f.mp4": (b"", "is empty"),
    "g.mp4": (b"\x8f" * 4000, "cannot be read as a video"),
}


@pytest.mark.parametrize("name", HEADS)
def test_what_is_no_film_is_named(tmp_path, name):
    (tmp_path / name).write_bytes(HEADS[name][0])
    with pytest.raises(FootageError) as told:
        Clip(tmp_path / name)
    assert HEADS[name][1] in str(told.value)


def test_a_cover_is_no_film(film):
    """A sound track with a picture of its cover (the tag ``covr``) holds no film."""
    alone, covered = film.with_name("alone.m4a"), film.with_name("covered.m4a")
    with av.open(str(film)) as source, av.open(str(alone), "w", format="mp4") as target:
        sound = target.add_stream_from_template(source.streams.audio[0])
        for packet in [p for p in source.demux(source.streams.audio[0]) if p.dts is not None]:
            packet.stream = sound
            target.mux(packet)
    encoder = CodecContext.create("png", "w")
    encoder.width, encoder.height, encoder.pix_fmt, encoder.time_base = 16, 16, "rgb24", Fraction(1, 1)
    picture = av.VideoFrame.from_ndarray(np.zeros((16, 16, 3), np.uint8), format="rgb24")
    png = b"".join(bytes(p) for p in (*encoder.encode(picture), *encoder.encode(None)))
    data = written([(b"data", struct.pack(">II", 14, 0) + png)])
    handler = (b"hdlr", bytes(8) + b"mdirappl" + bytes(9))
    meta = (b"meta", bytes(4) + written([handler, (b"ilst", written([(b"covr", data)]))]))
    boxes = parsed(alone.read_bytes())
    movie = next(body for kind, body in boxes if kind == b"moov")
    movie[:] = [box for box in movie if box[0] != b"udta"] + [(b"udta", written([meta]))]
    covered.write_bytes(written(boxes))
    for path, about in ((alone, "no picture"), (covered, "a picture of its cover")):
        with pytest.raises(FootageError, match=about):
            Clip(path)


@pytest.mark.parametrize("scale", [0x7FFFFFFF, 90_000_000])
def test_a_rate_that_no_camera_films_is_refused_at_once(film, capsys, scale):
    """A wrong bit in the header of a track, ISO/IEC 14496-12, 8.4.2: the units of a second."""
    boxes = parsed(film.read_bytes())
    track = next(body for kind, body in next(b for k, b in boxes if k == b"moov") if kind == b"trak")
    media = next(body for kind, body in track if kind == b"mdia")
    at = next(k for k, (kind, _) in enumerate(media) if kind == b"mdhd")
    header = media[at][1]
    media[at] = (b"mdhd", header[:12] + struct.pack(">I", scale) + header[16:])
    film.write_bytes(written(boxes))
    assert main(["probe", str(film)]) == 2
    assert "which no camera films" in capsys.readouterr().err


@pytest.mark.parametrize("kind", ["pipe", "device", "socket", "folder"])
def test_what_is_no_file_is_refused_at_once(tmp_path, monkeypatch, capsys, kind):
    path = tmp_path / "x.mp4"
    if kind == "pipe":
        os.mkfifo(path)
    elif kind == "device":
        path.symlink_to("/dev/zero")
    elif kind == "folder":
        path.mkdir()
    else:
        monkeypatch.chdir(tmp_path)
        with socket.socket(socket.AF_UNIX) as bound:
            bound.bind("x.mp4")
    ended: list[int] = []
    worker = threading.Thread(target=lambda: ended.append(main(["probe", str(path)])), daemon=True)
    worker.start()
    worker.join(20)
    assert ended == [2]
    with pytest.raises(FootageError):
        Clip(Path(path))
