"""``kneel table SWING ... --out X.csv``: the numbers of many swings, a row a swing and checkpoint."""

from __future__ import annotations

import argparse
import csv
import io
import sys
from pathlib import Path

from kneel.cli.loading import analysed_as, load
from kneel.cli.outputs import Output
from kneel.cli.space import alone, by_both_as_kept
from kneel.disk import shown, write_bytes
from kneel.model import UsageError
from kneel.motion.measures import REGISTRY, Domain, Unit
from kneel.motion.quantity import Single
from kneel.motion.study import Study

ABOUT = ("swing", "golfer", "view", "hand", "club", "kind", "school", "checkpoint")
TIMES = ("time [s]", "time error [s]")
LENGTHS = ("cm", "stance widths")


def columns() -> list[tuple[str, str]]:
    """Measures with each unit they may be told in: lengths have a column in cm and one in stance widths."""
    found = []
    for key, entry in REGISTRY.items():
        if entry.domain is not Domain.ONCE:
            units = LENGTHS if entry.unit is Unit.LENGTH else (entry.unit.value,)
            found += [(key, unit) for unit in units]
    return found


def run(asked: argparse.Namespace) -> int:
    """Write the table."""
    out = Output(asked.out, "--out")
    wanted = columns()
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    numbers = (f"{key}{tail} [{unit}]" for key, unit in wanted for tail in ("", " error"))
    writer.writerow([*ABOUT, *TIMES, *numbers])
    for name in asked.swings:
        one = argparse.Namespace(**{**vars(asked), "input": name})
        loaded = load(one, [out])
        study = analysed_as(loaded, one)
        try:
            both = by_both_as_kept(loaded, study)
        except UsageError as error:
            print(f"Note: {shown(Path(name).name)}: {alone(error)}", file=sys.stderr)
            both = None
        swing = loaded.swing
        about = [Path(name).name, swing.golfer, swing.view.value, swing.hand.value, swing.club.value]
        about += [study.kind.value, swing.school]
        writer.writerows(_rows(about, both.study if both is not None else study, wanted))
    with out.writing() as path:
        write_bytes(path, text.getvalue().encode("utf-8"))
    return 0


def _rows(about: list[str], study: Study, wanted: list[tuple[str, str]]) -> list[list[str]]:
    rows = []
    for checkpoint, found in study.checkpoints.items():
        row = [*about, checkpoint, f"{found.time_s:.4f}", f"{found.sigma_s:.4f}"]
        for key, unit in wanted:
            told = study.at(key, checkpoint)
            if isinstance(told, Single) and LENGTH_NAMES.get(told.unit, told.unit) == unit:
                row += [f"{told.value:.4f}", f"{told.sigma:.4f}"]
            else:
                row += ["", ""]
        rows.append(row)
    return rows


LENGTH_NAMES = {"stance": "stance widths"}
