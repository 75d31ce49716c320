"""What programs read and say: the typed JSON and its schema, and what can be told besides points."""

from __future__ import annotations

import json
import runpy
import subprocess
import sys
from pathlib import Path

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kneel.cli.main import main
from kneel.contract import v1
from kneel.documents.plate_csv import read_plate
from kneel.model import Kind, PointRows, PointsError, Stature, TypedScale, TypedValue, View, out_of_order
from kneel.model.names import CHECKPOINTS
from kneel.motion.analysis import analyse
from kneel.motion.checkpoints.moment import Moment, fused
from kneel.motion.measures import REGISTRY, Domain
from kneel.motion.scale import Scale, fused_scale
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_rows
from kneel.sim.plate import write_plate
from tests.test_cli import analysed, points_file

ROOT = Path(__file__).parent.parent


# The JSON.


@pytest.mark.parametrize("view", ["face-on", "down-the-line", "rear"])
def test_the_result_is_what_its_types_and_its_schema_say(tmp_path, simulate, capsys, view):
    """Decoded strictly by the published types; every measure is there or says why not."""
    path = points_file(tmp_path / "p.csv", simulate(sway=4.0, view=View(view)), sigma=1.0)
    assert main(["analyze", str(path), "--view", view, "--stature", "176", "--json", "-"]) == 0
    result = msgspec.json.decode(capsys.readouterr().out, type=v1.Result, strict=True)
    assert result.measures.keys() | result.missing.keys() == REGISTRY.keys()
    assert not result.measures.keys() & result.missing.keys()
    for key, measure in result.measures.items():
        once = REGISTRY[key].domain is Domain.ONCE
        assert (measure.once is not None) is once and bool(measure.at) is not once, key
        for value in (*measure.at.values(), *filter(None, [measure.once])):
            assert value.sigma is not None and value.sigma >= 0
            assert value.low is None or value.low <= value.high
    assert set(result.checkpoints) == set(CHECKPOINTS)
    camera, quality = result.camera, result.quality.values()
    assert camera.told_by
    angles = (camera.yaw_deg, camera.yaw_sigma_deg, camera.roll_deg, camera.roll_sigma_deg)
    for value in (*angles, *(px for one in quality for px in (one.usual_px, one.worst_px))):
        assert value == round(value, 2), "no more digits than can be known"


def test_the_schema_is_the_one_published():
    texts = runpy.run_path(str(ROOT / "tools" / "schema.py"))["texts"]()
    for name, text in texts.items():
        assert text == (ROOT / "docs" / "schemas" / name).read_text(encoding="utf-8")
    analyze, plan = (json.loads(texts[f"{name}-{v1.VERSION}.json"])["$defs"] for name in ("analyze", "plan"))
    assert set(analyze) >= {"Result", "Measure", "Value", "Checkpoint", "Finding"}
    assert set(plan) >= {"PlanResult", "ChangedResult", "Session", "Success"}


def test_the_page_of_measures_lists_every_one_with_figures():
    page = (ROOT / "docs" / "measures.md").read_text(encoding="utf-8")
    entries = {part.split("`", 1)[0]: part for part in page.split("### `")[1:]}
    assert entries.keys() == REGISTRY.keys()
    unmeasured = {key for key, part in entries.items() if "Not measured" in part}
    # No simulated swing lifts a lead heel and puts it down; pressure is recorded, not seen.
    assert unmeasured <= {"pressure_side", "pressure_toe", "lead_heel_landing"}


def test_points_ask_for_no_heavy_part_of_scipy(tmp_path, simulate):
    """Each of these doubles the start: what ``analyze`` on points loads holds none, nor pictures, nor Qt."""
    path = points_file(tmp_path / "p.csv", simulate())
    code = (
        "import sys; from kneel.cli.main import main; main(sys.argv[1:]); "
        "heavy = [f'scipy.{part}' for part in ('stats', 'signal', 'interpolate', 'optimize')]; "
        "heavy += ['cv2', 'av', 'PyQt6']; "
        "print([name for name in heavy if name in sys.modules], file=sys.stderr)"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, "analyze", str(path)], capture_output=True, text=True, check=True
    )
    assert done.stderr.strip() == "[]"


# What is told besides.


def test_pressure_is_read_from_a_plate_and_is_not_the_mass(tmp_path, simulate, capsys):
    simulated = simulate(sway=2.0)
    path, plate = points_file(tmp_path / "p.csv", simulated, sigma=1.0), tmp_path / "plate.csv"
    write_plate(plate, simulated[1].pressure)
    result = analysed(capsys, str(path), "--stature", "176", "--plate", str(plate))
    at = result["measures"]["pressure_side"]["at"]
    truth = simulated[1]
    for name in ("address", "top", "impact"):
        told = np.interp(truth.checkpoints_s[name], truth.times_s, truth.pressure.lead_percent)
        assert abs(at[name]["value"] - told) < 3 * at[name]["sigma"]
    assert at["impact"]["value"] > result["measures"]["mass_side"]["at"]["impact"]["value"] + 8
    without = analysed(capsys, str(path), "--stature", "176")
    assert "plate" in without["missing"]["pressure_side"]
    typed = analysed(capsys, str(path), "--typed", "pressure_side@impact=83", "--typed", "tempo=3.2")
    assert typed["measures"]["pressure_side"]["at"]["impact"]["value"] == 83
    assert typed["measures"]["tempo"]["once"]["value"] == 3.2


@pytest.mark.parametrize(
    ("text", "about"),
    [
        ("", "columns"),
        ("time_s,lead_percent,toe_percent\n0,50,50\n", "two rows"),
        ("time_s,lead_percent\n0,50\n1,50\n", "columns"),
        ("time_s,lead_percent,toe_percent\n0,50,50\n0,50,50\n", "do not rise"),
        ("time_s,lead_percent,toe_percent\n0,50,50\n1,x,50\n", "line 3"),
        ("time_s,lead_percent,toe_percent\n0,50,50\n1,nan,50\n", "line 3"),
        ("time_s,lead_percent,toe_percent\n0,50,50\n1,300,50\n", "0 to 100"),
        ("time_s,lead_percent,toe_percent\n0,50,50\n1,-1.1,50\n", "0 to 100"),
        ("time_s,lead_percent,toe_percent\n0,50\n1,50\n", "line 2"),
        ('time_s,lead_percent,toe_percent\n"0,50,50\n', "CSV"),
    ],
)
def test_a_broken_plate_is_one_sentence(tmp_path, text, about):
    """Shares may be past their ends by what a plate's zero is off, and no more."""
    path = tmp_path / "plate.csv"
    path.write_text(text)
    with pytest.raises(PointsError, match=about):
        read_plate(path)
    with pytest.raises(PointsError, match="no file"):
        read_plate(tmp_path / "none.csv")
    path.write_text("time_s,lead_percent,toe_percent\n0,-0.5,50\n1,100.5,50\n")
    assert read_plate(path).lead.tolist() == [-0.5, 100.5]


def test_several_scales_are_put_together(tmp_path, simulate, capsys):
    """Inverse variance, as a weighted mean has it (any handbook of statistics); further apart, wider."""
    both = fused_scale([Scale("cm", 0.40, 0.03, "a"), Scale("cm", 0.40, 0.04, "b")])
    assert both.relative == pytest.approx(1 / np.hypot(1 / 0.03, 1 / 0.04))
    apart = fused_scale([Scale("cm", 0.40, 0.03, "a"), Scale("cm", 0.52, 0.03, "b")])
    assert apart.relative > 0.1 and 0.40 < apart.per_px < 0.52
    simulated = simulate()
    path, true = points_file(tmp_path / "p.csv", simulated, sigma=1.0), simulated[1].cm_per_px
    alone = analysed(capsys, str(path), "--stature", "176")["scale"]
    stick = f"100,600,{100 + 91.4 / true:.1f},600,91.4"
    more = analysed(capsys, str(path), "--stature", "176", "--length", stick)["scale"]
    assert more["source"] == "a known length and stature"
    assert more["sigma"] < alone["sigma"] and abs(more["cm_per_px"] - true) < 2 * more["sigma"]


def test_a_plumb_levels_the_picture(simulate):
    """A camera tilted by 4°: told by a marked plumb, tilts come out right."""
    rows, truth = simulate(roll_deg=4.0, noise=0.5)
    lean = np.tan(np.radians(4.0))
    told = {}
    for plumb in (None, (640.0, 100.0, 640.0 - 500 * lean, 600.0)):
        study = analyse(rows.times_s, from_rows(rows), Setup(scale=Stature(176.0), plumb=plumb))
        told[plumb] = study.at("side_tilt", "top").value - truth.at("side_tilt", "top")
        roll = study.stand
    levelled = told[640.0, 100.0, 640.0 - 500 * lean, 600.0]
    assert abs(levelled) < 1.0 and abs(told[None]) > 2.0
    assert roll.roll_deg == pytest.approx(4.0, abs=0.5) and roll.roll_sigma < 0.5
    assert any("tilted by about 4°" in note for note in study.warnings)


def test_a_held_pose_is_measured_and_never_timed(tmp_path, simulate, capsys):
    rows, truth = simulate(noise=0.5)
    k = int(np.searchsorted(rows.times_s, truth.checkpoints_s["impact"]))
    one = PointRows(
        rows.frames[[k]],
        rows.times_s[[k]],
        {n: v[[k]] for n, v in rows.xy.items()},
        {n: v[[k]] for n, v in rows.sigma.items()},
    )
    path = points_file(tmp_path / "one.csv", (one, truth))
    result = analysed(capsys, str(path), "--stature", "176")
    assert list(result["checkpoints"]) == ["held"]
    tilt = result["measures"]["side_tilt"]["at"]["held"]
    assert abs(tilt["value"] - truth.at("side_tilt", "impact")) < 2 * tilt["sigma"]
    assert "held pose" in result["missing"]["pelvis_shift"]
    assert "impact" in result["missing"]["downswing_time"]
    held = analyse(rows.times_s, from_rows(rows), Setup(kind=Kind.HELD, scale=Stature(176.0)))
    assert list(held.checkpoints) == ["held"] and held.at("lead_stack", "held")


def test_own_checkpoints_are_named_and_measured(tmp_path, simulate, capsys):
    path = points_file(tmp_path / "p.csv", simulate())
    result = analysed(capsys, str(path), "--stature", "176", "--own", "belt high=120")
    assert result["checkpoints"]["belt high"]["frame"] == 120
    assert "belt high" in result["measures"]["pelvis_shift"]["at"]


@pytest.mark.parametrize(
    ("options", "about"),
    [
        (["--own", "top=50"], "use --checkpoint"),
        (["--own", "belt=5000"], "outside frames"),
        (["--plumb", "1,2,3"], "X1,Y1,X2,Y2"),
        (["--length", "1,2,1,2,90"], "two ends apart"),
        (["--typed", "nothing=3"], "no measure"),
        (["--typed", "tempo@noon=3"], "no checkpoint"),
        (["--plate", "nowhere.csv"], "nowhere.csv"),
        (["--checkpoint", "top=100", "--checkpoint", "impact=90"], "impact is set before top"),
    ],
)
def test_what_cannot_be_told_is_one_sentence(tmp_path, simulate, capsys, options, about):
    path = points_file(tmp_path / "p.csv", simulate())
    assert main(["analyze", str(path), *options]) == 2
    error = capsys.readouterr().err
    assert about in error and error.count("\n") == 1


def test_a_followed_club_tells_nothing_fine(simulate):
    """From a clubhead that was followed what hangs on hands and club is unknown; from points it is told."""
    rows, _ = simulate()
    points = from_rows(rows)
    marked = analyse(rows.times_s, points, Setup(scale=TypedScale(0.37)))
    followed = analyse(
        rows.times_s, points, Setup(scale=TypedScale(0.37), guessed=frozenset({"clubhead", "grip"}))
    )
    for key in ("shaft_lean", "hands_ahead", "hands_to_ball"):
        assert marked.at(key, "impact") and marked.measure(key)
        assert "by hand" in followed.at(key, "impact").reason and not followed.measure(key)
    assert marked.once("low_point") and "by hand" in followed.once("low_point").reason
    assert followed.at("mass_side", "impact") and followed.at("pelvis_shift", "impact")


def test_a_typed_value_outranks_what_is_measured(simulate):
    rows, _ = simulate()
    typed = (TypedValue("side_tilt", 12.0, 1.5, "impact", "protractor"),)
    study = analyse(rows.times_s, from_rows(rows), Setup(scale=TypedScale(0.37), typed=typed))
    assert study.at("side_tilt", "impact").pair == (12.0, 1.5)
    assert study.at("side_tilt", "top").value != 12.0


# Witnesses.

TIMES, SIGMAS = st.floats(0, 2), st.floats(0.001, 0.1)


@given(st.lists(st.builds(Moment, TIMES, SIGMAS), min_size=1, max_size=5))
def test_fused_witnesses_lie_among_them_and_never_claim_too_much(witnesses):
    found = fused(witnesses)
    assert min(w.time_s for w in witnesses) - 1e-9 <= found.time_s <= max(w.time_s for w in witnesses) + 1e-9
    together = sum(w.sigma_s**-2 for w in witnesses) ** -0.5
    assert together * (1 - 1e-9) <= found.sigma_s
    if len({w.sigma_s for w in witnesses}) == len(witnesses) < 3:
        assert fused(witnesses[::-1]).time_s == pytest.approx(found.time_s, abs=1e-9)


def test_one_witness_that_lies_is_left_out():
    truth = [Moment(1.000, 0.004), Moment(1.003, 0.005), Moment(0.998, 0.006)]
    assert fused([*truth, Moment(1.2, 0.003)]).time_s == pytest.approx(fused(truth).time_s)
    assert fused([]) is None


@given(st.dictionaries(st.sampled_from(CHECKPOINTS), st.integers(0, 50)))
def test_pins_in_a_wrong_order_are_found(pinned):
    placed = [pinned[name] for name in CHECKPOINTS if name in pinned]
    assert (out_of_order(pinned) is None) is (placed == sorted(set(placed)))


def test_inches_are_told_and_judged_alike(tmp_path, simulate, capsys):
    """2.54 cm to the inch, exactly; the verdict and its window follow the unit."""
    path = points_file(tmp_path / "p.csv", simulate(sway=7.0), sigma=1.0)
    cm, inches = (analysed(capsys, str(path), "--stature", "176", *more) for more in ((), ("--inches",)))
    assert inches["scale"] == cm["scale"] | {"unit": "in"}
    for key in ("pelvis_shift", "head_lift", "lead_stack"):
        one, other = (r["measures"][key] for r in (cm, inches))
        assert other["unit"] == "in"
        for part in ("value", "sigma"):
            assert one["at"]["top"][part] == pytest.approx(2.54 * other["at"]["top"][part], abs=2e-4)
    assert inches["measures"]["side_tilt"] == cm["measures"]["side_tilt"]
    one, other = (r["findings"][0] for r in (cm, inches))
    assert (one["verdict"], one["severity"]) == (other["verdict"], pytest.approx(other["severity"], abs=0.01))
    assert other["window"][0] == pytest.approx(one["window"][0] / 2.54, abs=1e-3) and " in " in other["text"]


@pytest.mark.parametrize("yaw", [-16.0, 3.0, 16.0])
def test_a_camera_off_square_is_told_with_its_harm(simulate, yaw):
    """sin of the angle times the 10 cm by which a pelvis moves along the view (geometry, domain)."""
    rows, _ = simulate(yaw_deg=yaw, noise=0.7)
    study = analyse(rows.times_s, from_rows(rows), Setup(scale=Stature(176.0)))
    said = [note for note in study.warnings if "off square" in note]
    if abs(yaw) < 7:
        assert said == []
        return
    assert abs(abs(study.stand.yaw_deg) - abs(yaw)) < 2 * study.stand.yaw_sigma
    harm = 10 * np.sin(np.radians(abs(study.stand.yaw_deg)))
    assert f"{harm:.1f} cm wrong" in said[0]
    square, _ = simulate(noise=0.7)
    sure = analyse(square.times_s, from_rows(square), Setup(scale=Stature(176.0)))
    assert study.at("side_tilt", "impact").sigma > 2 * sure.at("side_tilt", "impact").sigma


def test_what_is_told_of_a_clip_counts_as_of_points(demo, capsys):
    clip = demo / "maren-tolhurst-iron.mp4"
    plain = analysed(capsys, str(clip))
    more = ["--own", "belt=100", "--typed", "tempo=3", "--plumb", "100,10,100,600", "--inches"]
    told = analysed(capsys, str(clip), *more)
    assert told["checkpoints"]["belt"]["frame"] == 100 and "belt" not in plain["checkpoints"]
    assert told["measures"]["tempo"]["once"]["value"] == 3 != plain["measures"]["tempo"]["once"]["value"]
    assert told["camera"]["roll_sigma_deg"] < 0.3 < plain["camera"]["roll_sigma_deg"]
    assert told["scale"]["unit"] == "in"
    held = analysed(capsys, str(clip), "--kind", "held")
    assert list(held["checkpoints"]) == ["held"] and held["kind"] == "held"
