"""The numbers of many swings stay what they are unless somebody means to change them; see ``numbers.py``."""

from __future__ import annotations

import json

import pytest

from tests.numbers import CASES, RECORD, numbers

KNOWN = json.loads(RECORD.read_text(encoding="utf-8"))


def compare(now, known, where=""):
    """Alike to six digits, everywhere."""
    if isinstance(known, dict):
        assert now.keys() == known.keys(), where
        for key, value in known.items():
            compare(now[key], value, f"{where}/{key}")
    elif isinstance(known, list):
        assert len(now) == len(known), where
        for k, value in enumerate(known):
            compare(now[k], value, f"{where}/{k}")
    elif isinstance(known, float) and not isinstance(now, str | bool):
        assert now == pytest.approx(known, rel=2e-5, abs=1e-7), where
    else:
        assert now == known, where


@pytest.mark.parametrize("name", CASES)
def test_numbers_are_those_of_the_record(name):
    compare(numbers(CASES[name]()), KNOWN[name])
