"""What the canvas shows of a measure: windows of schools over the checkpoints, and a swing's own course."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from kneel.judge.kinds import ONCE, laid, of_kind
from kneel.judge.knowledge import Knowledge
from kneel.judge.numbers import OfSwing, as_used
from kneel.judge.records import School, Window
from kneel.judge.shaping import fault_window
from kneel.model import CHECKPOINTS, Club, Kind
from kneel.motion.measures import REGISTRY, Domain, Unit
from kneel.motion.quantity import Series, Single
from kneel.motion.study import Study

AT_ONE_STEP = 12
"""So many places are drawn of a course between two checkpoints."""


@dataclass(frozen=True)
class Course:
    """A swing over the columns: places ``x`` in columns, values and errors, in the windows' unit."""

    x: np.ndarray
    values: np.ndarray
    sigma: np.ndarray


@dataclass(frozen=True)
class Corridors:
    """One measure under a school, by checkpoint; ``base`` is what an own school stands on, ``beside`` a
    second school. ``own`` are the checkpoints that are the school's own, ``course`` the swing on the desk.
    """

    measure: str
    columns: tuple[str, ...]
    windows: Mapping[str, Window] = field(default_factory=dict)
    base: Mapping[str, Window] = field(default_factory=dict)
    beside: Mapping[str, Window] = field(default_factory=dict)
    own: frozenset[str] = frozenset()
    course: Course | None = None
    fault: str = ""
    """The fault that these limits are of alone, where they are no window of the measure."""

    kind: Kind | None = None
    """The kind of swing they are laid on, where it is not a full one."""

    @property
    def unit(self) -> str:
        """Centimetres of a body of 1.75 m, or the measure's own unit."""
        unit = REGISTRY[self.measure].unit
        return "cm" if unit is Unit.LENGTH else unit.value


def columns_of(measure: str) -> tuple[str, ...]:
    """Where a measure is asked: at checkpoints, or once."""
    return (ONCE,) if REGISTRY[measure].domain is Domain.ONCE else tuple(CHECKPOINTS)


def windows_of(
    school: School | None, measure: str, club: Club, fault: str = "", kind: Kind | None = None
) -> dict[str, Window]:
    """A school's windows on a measure by checkpoint, or what decides one ``fault`` alone; for a ``kind`` of
    swing as they are laid on it.

    >>> from kneel.judge.knowledge import shipped
    >>> windows_of(shipped().school("centred"), "pelvis_shift", Club.IRON)["top"].lo
    -1.5
    >>> "top" in windows_of(shipped().school("centred"), "pelvis_shift", Club.IRON, kind=Kind.HALF)
    False
    """
    if school is None:
        return {}
    found = {}
    for at in columns_of(measure):
        if fault:
            alone = fault_window(school, fault, measure, at, club, kind)
            window = of_kind(alone, kind or Kind.FULL, at) if alone is not None else None
        else:
            window = laid(school, measure, at, club, kind or Kind.FULL)
        if window is not None:
            found[at] = window
    return found


def course_of(study: Study | None, measure: str, club: Club) -> Course | None:
    """How the swing on the desk runs in the windows' own unit; None where it does not tell the measure."""
    if study is None:
        return None
    columns = columns_of(measure)
    per = as_used(Window(measure, columns[:1], 1.0, 1.0), OfSwing(study, club), study.unit(measure)).lo or 1.0
    if columns == (ONCE,):
        told = study.once(measure)
        one = isinstance(told, Single)
        return Course(np.zeros(1), *np.array([[told.value], [told.sigma]]) / per) if one else None
    series = study.measure(measure)
    if not isinstance(series, Series):
        found = [(k, study.at(measure, at)) for k, at in enumerate(columns)]
        rows = [(k, one.value / per, one.sigma / per) for k, one in found if isinstance(one, Single)]
        return Course(*np.array(rows).T) if rows else None
    places = [(k, study.checkpoints[at].frame) for k, at in enumerate(columns) if at in study.checkpoints]
    if len(places) < 2:
        return None
    at, frames = np.array(places, float).T
    x = np.linspace(at[0], at[-1], int(AT_ONE_STEP * (at[-1] - at[0])) + 1)
    moments = np.interp(x, at, frames)
    own = np.arange(len(series.values))
    told = ~np.isnan(series.values)
    values, sigma = (np.interp(moments, own[told], some[told]) for some in (series.values, series.sigma))
    return Course(x, values / per, sigma / per)


def asked_by(knowledge: Knowledge, measure: str, at: str) -> list[str]:
    """The faults that a window decides, by title.

    >>> from kneel.judge.knowledge import shipped
    >>> asked_by(shipped(), "pelvis_shift", "top")
    ['Sway']
    """
    return [
        fault.title
        for fault in knowledge.faults.values()
        if any(check.own is None and check.measure == measure and at in check.at for check in fault.check)
    ]


def shapeable(knowledge: Knowledge, schools: Sequence[School]) -> list[tuple[str, str]]:
    """Every number that can be shaped, as (measure, fault): what any of the schools asks of every swing, by
    title, with no fault; then the limits that decide one fault alone, by the faults' titles.

    >>> from kneel.judge.knowledge import shipped
    >>> found = shapeable(shipped(), [shipped().school("centred")])
    >>> found[0], next(one for one in found if one[1])
    (('plumb_fit', ''), ('lead_knee_flex_change', 'both_knees_straighten'))
    """
    windows = [window for school in schools for window in school.window]
    own = {
        (check.measure, key)
        for key, fault in knowledge.faults.items()
        for check in fault.check
        if check.own is not None
    }
    found = own | {(window.measure, window.fault) for window in windows}

    def by_title(one: tuple[str, str]) -> tuple[str, str]:
        measure, fault = one
        return knowledge.faults[fault].title if fault else "", REGISTRY[measure].title

    return sorted((one for one in found if not one[1] or one[1] in knowledge.faults), key=by_title)
