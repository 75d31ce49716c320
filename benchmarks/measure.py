"""Timing by medians, and one row of the table."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Row:
    """One figure: ours, the reference, their ratio, and what is aimed at."""

    what: str
    ours_ms: float
    reference: str
    reference_ms: float
    aim: str

    def text(self) -> str:
        ratio = self.ours_ms / self.reference_ms
        return (
            f"| {self.what} | {self.ours_ms:.1f} | {self.reference} | {self.reference_ms:.1f} "
            f"| {ratio:.2f} | {self.aim} |"
        )


def median_ms(work: Callable[[], object], repeats: int = 7) -> float:
    """Median wall time of ``work`` in milliseconds after one run to warm up."""
    work()
    times = []
    for _ in range(repeats):
        start = time.perf_counter()
        work()
        times.append(1000 * (time.perf_counter() - start))
    return statistics.median(times)


def percentile(values: list[float], share: float) -> float:
    """The value below which ``share`` of the values lie."""
    ordered = sorted(values)
    return ordered[min(int(share * len(ordered)), len(ordered) - 1)]
