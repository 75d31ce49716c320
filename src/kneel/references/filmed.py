"""Filming the references that ship: ``models.toml`` says who they are, the judge what each is clear of."""

from __future__ import annotations

import sys
import tomllib
from importlib.resources import files
from pathlib import Path

import msgspec
import numpy as np

from kneel.demo.followed import follow
from kneel.demo.lesson import RATES, ROLES, filmed_ref, marked
from kneel.documents.swing_file import SUFFIX, load_swing, save_swing
from kneel.evidence import Shelf, sidecar
from kneel.evidence.kept import kept_swing
from kneel.judge import known
from kneel.model import Club, Hand, Stature, Swing, View
from kneel.practice.judging import judge_swing
from kneel.references.card import Card, write_card
from kneel.references.fitting import shown_by
from kneel.references.shelf import STEM
from kneel.sim.build import BUILDS, Physique
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot, film
from kneel.sim.golfer import Golfer
from kneel.sim.look import Appearance, FilmPlace
from kneel.sim.swing import SwingPlan


class Model(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One body and how it swings."""

    title: str
    hand: Hand
    stature_cm: float
    club: Club
    school: str
    look: Appearance
    girth: float = 1.0
    build: Physique = Physique.MAN
    tempo: float = 1.0
    place: FilmPlace = FilmPlace.RANGE


def models() -> list[Model]:
    """Those that ship."""
    raw = tomllib.loads((files("kneel.references") / "models.toml").read_text(encoding="utf-8"))
    return msgspec.convert(raw["model"], list[Model])


def build(folder: Path, *, film_anew: bool = True) -> None:
    """Film all of them anew into ``folder``, a folder a reference and view, or only follow their marks."""
    for number, model in enumerate(models()):
        for view, ending in ROLES.items():
            place = folder / f"{model.school}-{model.club}-{round(model.stature_cm)}{ending}"
            place.mkdir(parents=True, exist_ok=True)
            if film_anew:
                _film(place, model, view, number)
            _carry(place, model)
            print(f"made {place.name}", file=sys.stderr)


def _film(place: Path, model: Model, view: View, number: int) -> None:
    body = BUILDS[model.build].drawn(np.random.default_rng(100 + number))
    golfer = Golfer(model.stature_cm, model.hand, model.club, model.girth, look=model.look, build=body)
    plan = SwingPlan({}, model.school, model.tempo)
    camera = Camera(view, model.hand, exposure_s=0.0015)
    shoot = Shoot(golfer, plan, camera, RATES[view], 700 + number, model.place, quality=24)
    clip = place / f"{STEM}.mp4"
    truth = film(shoot, clip)
    document = place / f"{STEM}{SUFFIX}"
    save_swing(
        document,
        Swing().given(
            id=place.name,
            clip=filmed_ref(clip, shoot),
            view=view,
            hand=model.hand,
            club=model.club,
            school=model.school,
            scale=Stature(model.stature_cm),
            marks=marked(truth, shoot),
        ),
    )


def _carry(place: Path, model: Model) -> None:
    """Follow the marks, lay what was followed beside the clip, and write what the swing shows on its card."""
    document, clip, shelf = place / f"{STEM}{SUFFIX}", place / f"{STEM}.mp4", Shelf(folder=place / "kept")
    swing = load_swing(document)
    sidecar(clip).unlink(missing_ok=True)
    follow(swing, clip, shelf)
    kept = kept_swing(document, shelf)
    assert kept is not None
    shelf.forget()
    (place / "kept").rmdir()
    reading = judge_swing(kept.study, known().schools[model.school], swing, known())
    write_card(place, Card(model.title, shown_by(reading), stature_cm=model.stature_cm))
