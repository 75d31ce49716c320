"""The two palettes. Every role of text keeps 4.5:1 on every ground by WCAG 2.2, which a test checks."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Colours:
    """One palette, as hex strings. ``ink`` draws lines on the picture, ``halo`` lies under it."""

    dark: bool
    ground: str
    panel: str
    raised: str
    edge: str
    text: str
    secondary: str
    faint: str
    ink: str
    halo: str
    lead: str
    trail: str
    fault: str
    watch: str
    clear: str
    unknown: str
    chosen: str
    chosen_edge: str


DARK = Colours(
    dark=True,
    ground="#12181a",
    panel="#192124",
    raised="#212b2f",
    edge="#33413f",
    text="#e9eeea",
    secondary="#a9b9b9",
    faint="#85979d",
    ink="#f3efe4",
    halo="#101516",
    lead="#e8a33d",
    trail="#6cb8e6",
    fault="#e27640",
    watch="#d9b53f",
    clear="#4fae8a",
    unknown="#8f9aa3",
    chosen="#1a3036",
    chosen_edge="#5f97a0",
)

LIGHT = Colours(
    dark=False,
    ground="#f4f2ec",
    panel="#ffffff",
    raised="#edeae3",
    edge="#cfcabd",
    text="#1a2224",
    secondary="#4e5d60",
    faint="#5d6a6c",
    ink="#1a2224",
    halo="#fbfaf6",
    lead="#945b0a",
    trail="#1f6d9f",
    fault="#8a2806",
    watch="#7e6500",
    clear="#1c7455",
    unknown="#5d6971",
    chosen="#dceaea",
    chosen_edge="#4e7f86",
)
