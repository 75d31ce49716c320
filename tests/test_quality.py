"""How well points are followed, said in grades and words, against made-up causes."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from kneel.model import Hand, Links, Sighting
from kneel.motion.quality import Grade, point_quality, spoilt_words
from kneel.motion.track import PointData, solve_tracks

METRE = 300.0
TIMES = np.arange(120) / 120
PATH = np.stack([400 + 30 * np.sin(3 * TIMES), 300 + 5 * TIMES], axis=1)


def judged(sightings, links=(), *, name="left_hip"):
    data = PointData(tuple(sightings), tuple(links), 2.0 * METRE, 2.0 * METRE)
    track = solve_tracks(TIMES, {name: data})[name]
    return point_quality(data, track, name, frames=(0, 119), px_per_m=METRE, size_px=(1280, 720)), track


def test_grades_follow_the_error_since_address_not_a_lasting_offset():
    """A joint 20 px off through the whole clip is followed well; one that wanders 12 px is not."""
    steady, _ = judged([Sighting(PATH.copy(), np.full(120, 2.0), offset=20.0)])
    wandering, track = judged([Sighting(PATH.copy(), np.full(120, 2.0), offset=20.0, wander=12.0)])
    assert steady.grade is Grade.GOOD and steady.spoilt == ()
    assert wandering.grade is Grade.POOR
    since = track.sigma**2 + track.sigma[0] ** 2 - 2 * track.covariance_with(0)
    assert wandering.worst_px == pytest.approx(np.sqrt(since.max()))
    assert since[wandering.worst_frame] == pytest.approx(since.max())
    (sentence,) = spoilt_words({"left_hip": wandering, "right_hip": steady}, Hand.RIGHT, 0.35)
    assert sentence.startswith("Followed poorly since address: lead hip ± ") and " cm" in sentence
    both = {"left_hip": wandering, "right_knee": replace(wandering, spoilt=("leaves the picture in 9 %",))}
    (sentence,) = spoilt_words(both, Hand.RIGHT, 0.35)
    assert "; trail knee ± " in sentence and "(it leaves the picture in 9 %). A mark" in sentence
    (sentence,) = spoilt_words(both | {"right_hip": both["right_knee"]}, Hand.RIGHT, 0.35)
    assert ", trail hip ± " in sentence and "(each leaves the picture in 9 %). A mark" in sentence
    assert " pixels. " in spoilt_words({"left_hip": wandering}, Hand.LEFT, None)[0]


@pytest.mark.parametrize("cause", ["hidden", "gone", "outside", "fast", "cloth"])
def test_what_spoils_a_point_is_named(cause):
    """Each cause alone is the one that is said."""
    path, sigma, links = PATH.copy(), np.full(120, 2.0), []
    if cause == "hidden":
        sigma[40:70] = 8.0
    elif cause == "gone":
        path[30:100] = np.nan
    elif cause == "outside":
        path[60:, 0] += np.linspace(0, 950, 60)
    elif cause == "fast":
        path[50:80, 0] += 25.0 * np.arange(30)
        path[80:, 0] += 25.0 * 30
    else:
        links = [Links(np.diff(PATH, axis=0) + (3.0, 0.0), np.full(119, 0.5))]
    quality, _ = judged([Sighting(path, sigma)], links)
    said = {
        "hidden": "is hidden or hard to tell in 25 %",
        "gone": "is not seen in 58 %",
        "outside": "leaves the picture in",
        "fast": "moves too far between frames in",
        "cloth": "moves otherwise than what is seen of it",
    }[cause]
    assert any(words.startswith(said) for words in quality.spoilt), quality.spoilt
