"""All that is known of a swing besides what its document says, and the analysis of both."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path

from kneel.documents.plate_csv import read_plate
from kneel.evidence.marks import follow_marks, kept_marks, scale_of
from kneel.evidence.seen import kept_look, look_at
from kneel.evidence.shelf import Shelf
from kneel.evidence.stretch import Stretch
from kneel.model import KneelError, Mark, Swing
from kneel.motion.analysis import analyse_swing
from kneel.motion.checkpoints import Moment
from kneel.motion.plate import Plate
from kneel.motion.study import Study
from kneel.motion.viewed import seen_in_the_picture
from kneel.vision import (
    Followed,
    Looked,
    Source,
    closed,
    doubted,
    fused,
    installed,
    merged,
    of_joint,
    on_the_body,
)

Progress = Callable[[str, int, int], None]


@dataclass(frozen=True)
class Evidence:
    """What was looked for, what was followed from marks, and the strikes heard, on the frames' real clock."""

    looked: Looked = field(default_factory=Looked)
    followed: Followed = field(default_factory=Followed)
    strikes: tuple[Moment, ...] = ()

    @property
    def notes(self) -> tuple[str, ...]:
        """Plain words on what spoils it."""
        return self.looked.warnings


def gather(
    swing: Swing,
    stretch: Stretch,
    *,
    shelf: Shelf,
    sources: frozenset[Source] = frozenset(Source),
    strikes: tuple[Moment, ...] = (),
    part: Callable[[Evidence], None] = lambda evidence: None,
    progress: Progress = lambda what, done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> Evidence:
    """Look for the joints where the swing says so, and follow its marks.

    ``part`` is told what is known so far, each time there is more. ``strikes``
    are in real seconds. ``progress`` is told what is done, and how much of it.
    Once ``stopped`` says yes, what was gathered before is given. Raises
    ``BodyModelError`` where nothing but the body model could tell and it is
    not installed.
    """
    known = Evidence(strikes=strikes)
    marks = swing.marks
    if asks_to_look(swing, sources) and (installed() or not marks):
        looked = look_at(
            stretch,
            shelf,
            view=swing.known_view,
            mirrored=bool(swing.mirrored),
            near=swing.near,
            progress=lambda done, total: progress("looking for the joints", done, total),
            stopped=stopped,
        )
        if Source.FLOW not in sources:
            looked = replace(looked, links={})
        known = replace(known, looked=looked)
        part(known)
    if marks and not stopped():
        followed = follow_marks(
            stretch,
            marks,
            shelf,
            sources=sources,
            steady=not asks_to_look(swing, sources),
            part=lambda some: part(replace(known, followed=some)),
            progress=lambda done, total: progress("following the marks", done, total),
            stopped=stopped,
        )
        known = replace(known, followed=followed)
        part(known)
    return known


def known_evidence(swing: Swing, stretch: Stretch, shelf: Shelf) -> tuple[Looked | None, Followed]:
    """What is kept of a swing, without looking at a frame; None for a looking that is not kept."""
    looked = None
    if swing.looked:
        mirrored = bool(swing.mirrored)
        looked = kept_look(stretch, shelf, view=swing.known_view, mirrored=mirrored, near=swing.near)
    return looked, kept_marks(stretch, swing.marks, shelf, steady=not swing.looked)


def asks_to_look(swing: Swing, sources: frozenset[Source] = frozenset(Source)) -> bool:
    """Whether the joints are to be looked for."""
    return swing.looked and Source.BODY in sources


def supposed(swing: Swing, looked: Looked) -> Swing:
    """The swing with what nobody has said and looking tells: from where it was filmed."""
    return seen_in_the_picture(swing, {point: seen[0].xy for point, seen in looked.sightings.items() if seen})


def analysed(
    swing: Swing,
    stretch: Stretch,
    evidence: Evidence,
    plate: Plate | None = None,
) -> Study:
    """The numbers of a swing: a pure function of its document and the evidence, and of a plate's trace.

    The motion of the camera is that found by looking, or by following where
    nobody looks, and none where the document says that it stood still.
    """
    marks: tuple[Mark, ...] = swing.marks
    looked = evidence.looked if swing.looked else Looked()
    links = doubted(merged(closed(evidence.followed.links, marks), looked.links), looked.sightings)
    found = on_the_body(fused(evidence.followed.spots), looked.sightings)
    px_per_m = scale_of(marks, stretch) if found else 0.0
    spots = {point: (of_joint(point, spot, px_per_m),) for point, spot in found.items()}
    camera = looked.camera if swing.looked else evidence.followed.camera
    recorded, trouble = (plate, "") if plate is not None else _plate_of(swing)
    study = analyse_swing(
        swing,
        stretch.times_s,
        links,
        evidence.strikes,
        merged(spots, looked.sightings),
        camera if swing.steadied else None,
        recorded,
        crowd=looked.choice_open,
    )
    return replace(study, warnings=(*study.warnings, trouble)) if trouble else study


def _plate_of(swing: Swing) -> tuple[Plate | None, str]:
    """The trace that the document names, and what is wrong where it cannot be read."""
    named = swing.take.plate
    if named is None:
        return None, ""
    try:
        return read_plate(Path(named.path)), ""
    except KneelError as error:
        return None, f"{error} The plate's pressures are left out."
