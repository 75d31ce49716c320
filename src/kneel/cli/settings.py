"""What the command line says of a swing, as settings of its document."""

from __future__ import annotations

import argparse
import re
from typing import Any

import numpy as np

from kneel.cli.parts import capture_rate, named_numbers, numbers_of
from kneel.disk import shown
from kneel.judge import known
from kneel.model import (
    CHECKPOINTS,
    Club,
    Hand,
    Kind,
    KnownLength,
    ScaleSource,
    Stature,
    TypedScale,
    TypedValue,
    UsageError,
    View,
)
from kneel.model.renamed import as_now
from kneel.model.take import MARK_SIGMA_PX
from kneel.motion.checkpoints.rules import read_rule
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY, Unit
from kneel.practice.catalogue import known_drills
from kneel.speech.units import CM_PER_INCH

TYPED_SHARE = 0.03
"""How far a value that somebody typed in may be off, as a share."""


def settings_of(asked: argparse.Namespace) -> dict[str, Any]:
    """What the command line says of the swing."""
    settings: dict[str, Any] = {}
    if asked.view:
        settings["view"] = View(asked.view)
    if asked.handed:
        settings["hand"] = Hand(asked.handed)
    if asked.club:
        settings["club"] = Club(asked.club)
    if asked.flight:
        settings["flight"] = asked.flight
    if asked.standard:
        settings["school"] = asked.standard
    if asked.fps_capture is not None:
        settings["capture_rate"] = capture_rate(asked.fps_capture)
    if asked.mirrored:
        settings["mirrored"] = asked.mirrored == "yes"
    if asked.kind:
        settings["kind"] = Kind(asked.kind)
    if asked.pose:
        settings["kind"] = Kind.HELD
    if asked.about:
        settings["drill"] = _about(asked.about)
    if asked.plumb:
        settings["plumb"] = tuple(numbers_of(asked.plumb, "--plumb", "X1,Y1,X2,Y2", 4))
    if asked.typed:
        settings["typed"] = tuple(_typed(text, asked.inches) for text in asked.typed)
    scales = _scales(asked)
    if scales:
        settings["scale"], settings["also_scaled"] = scales[0], tuple(scales[1:])
    return settings


def _about(key: str) -> str:
    """The drill or the fault of that key. Raises ``UsageError``."""
    key = as_now(key)
    if key not in known_drills().all and key not in known().faults:
        raise UsageError(f"There is no drill and no fault “{shown(key)}”; both are told by their keys.")
    return key


def _scales(asked: argparse.Namespace) -> list[ScaleSource]:
    """All sources of scale that are given."""
    scales: list[ScaleSource] = []
    if asked.cm_per_px is not None:
        if not 0.001 <= asked.cm_per_px <= 20:
            raise UsageError(f"--cm-per-px takes 0.001 to 20, not {asked.cm_per_px:g}.")
        scales.append(TypedScale(asked.cm_per_px))
    for text in asked.length:
        ax, ay, bx, by, cm = numbers_of(text, "--length", "X1,Y1,X2,Y2,CM", 5)
        if not 0.1 <= cm <= 10000 or np.hypot(bx - ax, by - ay) < 2:
            raise UsageError(f"--length takes two ends apart and 0.1 to 10000 cm, not {text}.")
        scales.append(KnownLength(0, ax, ay, bx, by, cm, "a known length", sigma_px=MARK_SIGMA_PX))
    if asked.stature is not None:
        if not 80 <= asked.stature <= 250:
            raise UsageError(f"--stature takes 80 to 250 cm, not {asked.stature:g}.")
        scales.append(Stature(asked.stature))
    return scales


LARGEST_TYPED = 1e5


def _typed(text: str, inches: bool) -> TypedValue:
    """A value typed in, as ``pressure_side@impact=82`` or ``tempo=3.1``; a length in what lengths are told
    in.
    """
    name, _, _ = text.partition("=")
    value = named_numbers([text], "--typed", "MEASURE[@CHECKPOINT]=VALUE")[name.strip()]
    if abs(value) > LARGEST_TYPED:
        raise UsageError(f"--typed: {value:g} is no value that was measured on a golfer.")
    measure, _, checkpoint = name.strip().partition("@")
    if measure not in REGISTRY:
        raise UsageError(f"There is no measure “{measure}” to type a value for.")
    if checkpoint and checkpoint not in CHECKPOINTS:
        raise UsageError(f"There is no checkpoint “{checkpoint}”; known are {', '.join(CHECKPOINTS)}.")
    if inches and REGISTRY[measure].unit is Unit.LENGTH:
        value *= CM_PER_INCH
    return TypedValue(measure, value, abs(value) * TYPED_SHARE, checkpoint, "typed")


def own_checkpoints(asked: argparse.Namespace, first: int, last: int) -> dict[str, float]:
    """The instructor's own checkpoints, by the file's frame numbers."""
    own = named_numbers([one for one in asked.own if not _rule_of(one)], "--own", "NAME=FRAME")
    for name, frame in own.items():
        if name in CHECKPOINTS:
            raise UsageError(f"--own {name}: that checkpoint has a name already; use --checkpoint.")
        if not first <= frame <= last:
            raise UsageError(f"--own {name}={frame:g} lies outside frames {first} to {last}.")
    return own


def own_rules(asked: argparse.Namespace) -> dict[str, str]:
    """The instructor's own moments by a rule. Raises ``UsageError`` for what is none."""
    rules = {}
    for text in asked.own:
        rule = _rule_of(text)
        if rule:
            name = text.partition("=")[0].strip()
            told = read_rule(rule)
            if isinstance(told, Failed):
                raise UsageError(f"--own {shown(name)}: {told.reason}")
            if name in CHECKPOINTS:
                raise UsageError(f"--own {name}: that checkpoint has a name already; use --checkpoint.")
            rules[name] = rule
    return rules


def _rule_of(text: str) -> str:
    """The rule in ``NAME=RULE``; empty where a number stands there, or nothing."""
    _, _, rule = text.partition("=")
    return rule.strip() if re.search(r"[a-z]{2}", rule.lower()) else ""
