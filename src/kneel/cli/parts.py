"""Small pieces that several subcommands share."""

from __future__ import annotations

import json
import math
import sys
from collections.abc import Callable, Iterable
from typing import Any

import msgspec

from kneel.cli.outputs import Output
from kneel.disk import shown, write_bytes
from kneel.model import UsageError


def named_numbers(items: Iterable[str], option: str, form: str) -> dict[str, float]:
    """Read ``NAME=NUMBER`` options. Raises :class:`UsageError` with one sentence.

    >>> named_numbers(["sway=6"], "--fault", "NAME=AMOUNT")
    {'sway': 6.0}
    """
    found = {}
    for item in items:
        name, equals, text = item.partition("=")
        try:
            value = float(text)
        except ValueError:
            value = math.nan
        if not equals or not name or not math.isfinite(value):
            raise UsageError(f"{option} takes {form}, not {shown(item)}.")
        found[name.strip()] = value
    return found


def numbers_of(text: str, option: str, form: str, count: int) -> list[float]:
    """Read some numbers with commas between. Raises :class:`UsageError`.

    >>> numbers_of("1,2,3.5", "--x", "A,B,C", 3)
    [1.0, 2.0, 3.5]
    """
    try:
        found = [float(part) for part in text.split(",")]
    except ValueError:
        found = []
    if len(found) != count or not all(math.isfinite(x) and abs(x) <= 1e5 for x in found):
        raise UsageError(f"{option} takes {form}, not {shown(text)}.")
    return found


def capture_rate(rate: float) -> float:
    """A true rate of capture as typed. Raises :class:`UsageError`."""
    if not 1 <= rate <= 10000:
        raise UsageError(f"--fps-capture takes 1 to 10000 frames a second, not {rate:g}.")
    return rate


def progress_on_terminal(words: str) -> Callable[[int, int], None]:
    """A progress callback that writes to a terminal, and to nothing else."""

    def tell(done: int, total: int) -> None:
        if sys.stderr.isatty():
            print(f"\r{words}, {100 * done // max(total, 1)} %", end="\r", file=sys.stderr)

    return tell


def write_json(content: dict[str, Any], where: Output) -> None:
    """Write JSON, in UTF-8 wherever it goes. Raises ``UsageError``."""
    try:
        raw = msgspec.json.format(msgspec.json.encode(content), indent=1) + b"\n"
    except (UnicodeEncodeError, TypeError):
        # A name that is not UTF-8 is told by escapes, which JSON knows.
        text = json.dumps(content, indent=1, ensure_ascii=False, allow_nan=False) + "\n"
        raw = text.encode("utf-8", "backslashreplace")
    with where.writing() as path:
        write_bytes(path, raw, lasting=False)
