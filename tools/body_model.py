"""Fetch the body-landmark networks once, out of a package of the registry, and check them.

The package itself is not installed: it would drag in an older NumPy and
another OpenCV. Its two network files and its licence are taken out, verified
against known sums and put beside the environment, where Kneel looks for
them. A repeat needs no network. Nothing else of Kneel does without them:
marks by hand, flow and colour work all the same.
"""

from __future__ import annotations

import hashlib
import subprocess
import sys
import tempfile
import zipfile
from collections.abc import Sequence
from pathlib import Path

PACKAGE = "mediapipe==0.10.21"
WHEEL_SHA256 = "05dc4a9e593655a79558d05d6227d31018c2537a4bd3362b51e230cf22aecfe3"
PLATFORM = (
    *("--platform", "manylinux_2_28_x86_64", "--python-version", "3.11"),
    *("--implementation", "cp", "--abi", "cp311", "--only-binary", ":all:"),
)
FILES = {
    "mediapipe/modules/pose_detection/pose_detection.tflite": (
        "9ba9dd3d42efaaba86b4ff0122b06f29c4122e756b329d89dca1e297fd8f866c"
    ),
    "mediapipe/modules/pose_landmark/pose_landmark_full.tflite": (
        "e9a5c5cb17f736fafd4c2ec1da3b3d331d6edbe8a0d32395855aeb2cdfd64b9f"
    ),
}
LICENCE = "mediapipe-0.10.21.dist-info/LICENSE"


def main(folder: Path) -> int:
    """Put the files into ``folder``; 0 when they are there and right, 1 with one sentence when not."""
    if all(_right(folder / Path(name).name, digest) for name, digest in FILES.items()):
        return 0
    try:
        with tempfile.TemporaryDirectory() as scratch:
            wheel = download(Path(scratch), PACKAGE, WHEEL_SHA256, PLATFORM)
            folder.mkdir(parents=True, exist_ok=True)
            with zipfile.ZipFile(wheel) as package:
                for name, digest in FILES.items():
                    _put(folder / Path(name).name, package.read(name), digest)
                _put(folder / "LICENSE", package.read(LICENCE), None)
    except (OSError, KeyError, ValueError, zipfile.BadZipFile, subprocess.CalledProcessError) as error:
        print(
            f"The body-landmark network could not be fetched ({error}); "
            "Kneel works without it, joints are then marked by hand.",
            file=sys.stderr,
        )
        return 1
    return 0


def _right(path: Path, digest: str) -> bool:
    return path.is_file() and hashlib.sha256(path.read_bytes()).hexdigest() == digest


def download(scratch: Path, package: str, digest: str, platform: Sequence[str] = ()) -> Path:
    """Fetch one wheel, pinned by version and SHA-256, without what it depends on."""
    wanted = scratch / "wanted.txt"
    wanted.write_text(f"{package} --hash=sha256:{digest}\n", encoding="utf-8")
    command = [sys.executable, "-m", "pip", "download", "-q", "--disable-pip-version-check", "--no-deps"]
    command += ["--require-hashes", "-r", str(wanted), "-d", str(scratch), *platform]
    subprocess.run(command, check=True, capture_output=True)
    return next(scratch.glob("*.whl"))


def _put(path: Path, content: bytes, digest: str | None) -> None:
    if digest is not None and hashlib.sha256(content).hexdigest() != digest:
        raise ValueError(f"{path.name} is not what was expected")
    beside = path.with_name(path.name + ".part")
    beside.write_bytes(content)
    beside.replace(path)


if __name__ == "__main__":
    sys.exit(main(Path(sys.prefix) / "share" / "kneel" / "models"))
