"""Swings for the judge: clean ones, truths drawn evenly over the windows, and ones with a planted fault.

A fault is true where a deciding measure's simulated truth lies past its window as used, whatever dial was
turned; its size is the number of margins past that limit.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from benchmarks.swings import Case, any_camera, noisy, off, study_of
from kneel.judge import Finding, Knowledge, Reading, School, known
from kneel.judge.finding import Weighed
from kneel.judge.kinds import ONCE
from kneel.judge.numbers import OfSwing, as_used
from kneel.judge.reading import judge_numbers
from kneel.judge.records import Fault
from kneel.judge.weighing import over_checks
from kneel.model import Club, Hand, Stature, TypedScale, UsageError, View
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY
from kneel.motion.quantity import Single
from kneel.sim.build import BUILDS
from kneel.sim.camera import Camera
from kneel.sim.dials import dials, turned
from kneel.sim.film import Shoot
from kneel.sim.golfer import Golfer
from kneel.sim.swing import SwingPlan

SCHOOLS = ("centred", "loading", "forward", "braced")
PLANNED_RATE = 60.0
NEAR = 0.08
"""A planted fault is as large as asked when it is so near, in margins."""


@dataclass(frozen=True)
class Scaled:
    """The numbers of a swing with stated errors that are ``factor`` times what they are."""

    inner: OfSwing
    factor: float

    def __getattr__(self, name: str) -> object:
        return getattr(self.inner, name)

    def tell(self, measure: str, at: str) -> Single | Failed:
        told = self.inner.tell(measure, at)
        return replace(told, sigma=told.sigma * self.factor) if isinstance(told, Single) else told


@dataclass(frozen=True)
class Judged:
    """A swing judged, with the true size of every fault that is asked, in margins past its limit."""

    case: Case
    planted: str
    wanted: float
    reading: Reading
    doubled: Reading
    halved: Reading
    sizes: Mapping[str, float]


def scene(rng: np.random.Generator, view: View | None = None) -> tuple[School, Golfer, Camera, float]:
    """School, body, camera and rate, drawn at random."""
    hand = Hand.RIGHT if rng.random() < 0.6 else Hand.LEFT
    view = view or (View.FACE_ON, View.DOWN_THE_LINE)[int(rng.integers(2))]
    golfer = Golfer(
        float(rng.uniform(152, 196)),
        hand,
        list(Club)[rng.integers(4)],
        float(rng.uniform(0.9, 1.2)),
        float(rng.uniform(17, 32)),
        float(rng.uniform(8, 25)),
        float(rng.uniform(17, 30)),
        float(rng.uniform(26, 36)),
        build=BUILDS[list(BUILDS)[rng.integers(len(BUILDS))]],
    )
    camera = any_camera(rng, view, hand)
    school = known().school(SCHOOLS[int(rng.integers(4))])
    return school, golfer, camera, float(rng.choice([60, 120, 240]))


def swing(seed: int, fault: str = "", size: float = 0.0, *, view: View | None = None) -> Judged | None:
    """A swing by its number, with a fault of so many margins planted; None where the body cannot do it.

    Without a fault two dials are turned by what keeps their truth inside its window, drawn evenly.
    """
    rng = np.random.default_rng([seed, 14])
    if fault:
        view = view or view_of(known().faults[fault])
    school, golfer, camera, rate = scene(rng, view)
    try:
        amounts = amounts_for(rng, fault, size, school, golfer, camera.view, seed)
        if amounts is None:
            return None
        shoot = Shoot(golfer, plan_of(school, seed, amounts), camera, rate)
        truth = shoot.truth()
    except UsageError:
        return None
    xy, noise = noisy(rng, truth)
    scale = Stature(golfer.stature_cm) if rng.random() < 0.7 else TypedScale(truth.cm_per_px)
    case = Case(study_of(shoot, xy, noise, scale), truth, shoot)
    return judged(case, school, golfer.club, fault, size)


def judged(case: Case, school: School, club: Club, fault: str, size: float) -> Judged:
    """A case judged as stated, and with stated errors halved and doubled."""
    numbers = OfSwing(case.study, club)
    one, twice, half = (judge_numbers(Scaled(numbers, f), school) for f in (1.0, 2.0, 0.5))  # type: ignore[arg-type]
    sizes = {f.key: s for f in one.findings if (s := true_size(f, case)) is not None}
    return Judged(case, fault, size, one, twice, half, sizes)


def true_size(finding: Finding, case: Case) -> float | None:
    """Margins past the limit of the truth of a finding; None where nothing is asked or known."""
    asked = [w for w in finding.weighed if w.limits is not None]
    sizes = [_size(w, case) for w in asked]
    known_ = [s for s in sizes if s is not None]
    if not known_ or (finding.fault.need == "all" and len(known_) < len(finding.weighed)):
        return None
    return over_checks(
        finding.fault, known_, [w.at for w, s in zip(asked, sizes, strict=True) if s is not None]
    )


def _size(weighed: Weighed, case: Case) -> float | None:
    assert weighed.limits is not None
    key = weighed.check.measure
    at = "address" if weighed.at == ONCE else weighed.at
    true = case.true(key, at)
    if true is None:
        return None
    if weighed.told is not None:
        # An angle by the shorter way round from what is told.
        true = weighed.told.value - off(key, weighed.told.value, true)
    return weighed.limits.past(true, weighed.check.side) / weighed.limits.margin


def view_of(fault: Fault) -> View | None:
    """The view that shows a fault, where only one of the two does."""
    views = {v for c in fault.check for v in (c.views or REGISTRY[c.measure].views)}
    both = {View.FACE_ON, View.DOWN_THE_LINE}
    return next(iter(views & both)) if len(views & both) == 1 else None


def plan_of(school: School, seed: int, amounts: Mapping[str, float]) -> SwingPlan:
    return SwingPlan(dict(amounts), school.key, variation=1.0, still_before_s=0.7, seed=seed)


def amounts_for(
    rng: np.random.Generator, fault: str, size: float, school: School, golfer: Golfer, view: View, seed: int
) -> dict[str, float] | None:
    """How far which dials are turned."""
    knowledge = known()

    square = Camera(view, golfer.hand)
    clean = Shoot(golfer, plan_of(school, seed, {}), square, PLANNED_RATE)
    # Of points without noise it is asked which measures there are, and how they are told.
    study = study_of(clean, clean.truth().pixels, 1.0, Stature(golfer.stature_cm))

    def past(key: str, amounts: Mapping[str, float]) -> float | None:
        shoot = Shoot(golfer, plan_of(school, seed, amounts), square, PLANNED_RATE)
        return _planned(knowledge, key, school, golfer, Case(study, shoot.truth(), shoot))

    if fault:
        amount = turned(fault, size, lambda a: past(fault, {fault: a} if a else {}), NEAR)
        return None if amount is None else {fault: amount}
    amounts: dict[str, float] = {}
    shown = [k for k in dials() if k in knowledge.faults and view_of(knowledge.faults[k]) in (view, None)]
    for key in rng.choice(shown, 2, replace=False).tolist():
        inside = past(key, amounts)
        if inside is None or inside > -0.2:
            continue
        wanted = float(rng.uniform(inside, 0.0))
        amount = turned(key, wanted, lambda a, k=key: past(k, {**amounts, k: a}), NEAR)
        if amount is not None and amount > 0:
            amounts[key] = amount
    return amounts


def _planned(knowledge: Knowledge, key: str, school: School, golfer: Golfer, case: Case) -> float | None:
    """The true size of a fault on the body, before it is filmed."""
    fault = knowledge.faults[key]
    numbers, sizes, places = OfSwing(case.study, golfer.club), [], []
    for check in fault.check:
        if numbers.seen_from(check.measure) is None:
            continue
        for at in check.at:
            window = check.own or school.find(check.measure, at, golfer.club, key)
            value = case.true(check.measure, "address" if at == ONCE else at)
            if window is None or value is None:
                continue
            limits = as_used(window, numbers, "cm")
            if limits.asks(check.side):
                # Angles that are told past a half turn are near their limit, not far off it.
                middle = limits.lo if limits.lo is not None else limits.hi
                value = middle + off(check.measure, value, middle) if middle is not None else value
                sizes.append(limits.past(value, check.side) / limits.margin)
                places.append(at)
    if not sizes:
        return None
    return over_checks(fault, sizes, places)
