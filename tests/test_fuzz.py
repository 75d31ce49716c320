"""A bounded part of ``make fuzz``: mutated input ends in an answer or a sentence, and nothing is lost."""

from __future__ import annotations

import json
import random

import pytest

from kneel.demo.place import demo_lesson
from tests.fuzzing import documents, options, points
from tests.fuzzing.clips import mutated, parsed, written
from tests.fuzzing.kills import killed
from tests.fuzzing.run import faults

FIRST = 7000
"""Not the numbers of the whole run."""


@pytest.mark.parametrize(
    ("kind", "cases"), [("points", 20), ("clips", 10), ("documents", 2), ("options", 10), ("window", 2)]
)
def test_mutated_input_is_borne(kind, cases):
    assert list(faults(kind, list(range(FIRST, FIRST + cases)))) == []


def test_killed_at_random_moments_nothing_acknowledged_is_lost():
    lesson = demo_lesson()
    ends = [killed(seed, lesson) for seed in (FIRST, FIRST + 1)]
    assert [lost for _, lost in ends] == ["", ""]
    assert sum(states for states, _ in ends) > 0


def test_the_mutations_reach_what_they_are_meant_for():
    """They change what they are given, the same number always alike, and leave some of it readable."""
    made = [points.mutated(seed) for seed in range(40)]
    assert made == [points.mutated(seed) for seed in range(40)] and len(set(made)) > 30
    assert len({tuple(options.line(seed)) for seed in range(40)}) > 35
    sound = demo_lesson().with_suffix(".swing.json").read_bytes()
    readable = 0
    for seed in range(40):
        try:
            readable += json.loads(documents.mutated(sound, seed)) != json.loads(sound)
        except (ValueError, RecursionError):
            continue
    assert readable > 20
    inner = [(b"mvhd", bytes(8)), (b"trak", [(b"tkhd", b"\1\2\3")])]
    film = written([(b"ftyp", b"isom"), (b"mdat", random.Random(1).randbytes(60)), (b"moov", inner)])
    assert written(parsed(film)) == film
    assert sum(mutated(film, seed) != film for seed in range(60)) > 45
