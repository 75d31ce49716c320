"""The command line as scripts see it: exit codes, one line of error, and the JSON contract."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from kneel.cli.main import main
from kneel.documents.points_csv import write_points
from kneel.documents.swing_file import load_swing
from kneel.model import Hand
from tests.test_rates import slowed


def points_file(path: Path, simulated, *, sigma: float | None = None, drop: tuple[str, ...] = ()) -> Path:
    rows, _ = simulated
    write_points(
        path,
        (
            (int(f), float(t), name, float(xy[k, 0]), float(xy[k, 1]), sigma)
            for k, (f, t) in enumerate(zip(rows.frames, rows.times_s, strict=True))
            for name, xy in rows.xy.items()
            if np.isfinite(xy[k, 0]) and name not in drop
        ),
    )
    return path


def analysed(capsys, *arguments: str) -> dict:
    assert main(["analyze", *arguments, "--json", "-"]) == 0
    out = capsys.readouterr().out
    return json.loads(out)


@pytest.mark.parametrize(("sway", "verdict"), [(0.0, "clear"), (6.0, "fault")])
@pytest.mark.parametrize("hand", ["right", "left"])
def test_points_of_clean_and_swaying_swings(tmp_path, simulate, capsys, sway, verdict, hand):
    """The issue's own test: clear on a clean swing, fault on a swaying one, the shift within its error."""
    simulated = simulate(sway=sway, hand=Hand(hand), noise=1.0)
    path = points_file(tmp_path / "p.csv", simulated)
    result = analysed(capsys, str(path), "--view", "face-on", "--handed", hand, "--stature", "176")
    finding = next(f for f in result["findings"] if f["fault"] == "sway")
    assert finding["verdict"] == verdict
    top = result["measures"]["pelvis_shift"]["at"]["top"]
    truth = simulated[1]
    assert abs(top["value"] - truth.at("pelvis_shift", "top")) < 2 * top["sigma"]
    assert result["priority"] == (["sway"] if sway else [])


def test_the_contract_of_the_result(tmp_path, simulate, capsys):
    path = points_file(tmp_path / "p.csv", simulate(sway=6.0), sigma=1.5)
    result = analysed(capsys, str(path), "--cm-per-px", "0.37", "--against", "loading")
    assert result["kneel"] == 1
    assert result["scale"]["unit"] == "cm"
    assert result["scale"]["cm_per_px"] == 0.37
    assert result["scale"]["sigma"] > 0
    for point in result["checkpoints"].values():
        assert set(point) == {"frame", "time_s", "sigma_s", "source"}
        assert isinstance(point["frame"], int)
    for measure in result["measures"].values():
        told = [measure["once"]] if "once" in measure else list(measure["at"].values())
        assert told and all({"value", "sigma"} <= set(at) for at in told)
    for key in ("pelvis_shift", "side_tilt", "mass_side"):
        assert set(result["measures"][key]["at"]) == set(result["checkpoints"])
    finding = result["findings"][0]
    assert {"fault", "verdict", "probability", "severity", "checkpoint", "measure"} <= set(finding)
    assert {"value", "sigma", "window", "root", "explains", "text"} <= set(finding)
    assert result["against"]["school"] == "loading"


def test_frames_keep_the_numbers_of_the_file(tmp_path, simulate, capsys):
    rows, truth = simulate()
    shifted = type(rows)(rows.frames + 1000, rows.times_s + 7.0, rows.xy, rows.sigma)
    path = points_file(tmp_path / "p.csv", (shifted, truth))
    result = analysed(capsys, str(path), "--checkpoint", "top=1146")
    assert result["checkpoints"]["top"] == {
        "frame": 1146,
        "time_s": pytest.approx(7 + 146 / 120, abs=1e-4),
        "sigma_s": pytest.approx(1 / 120 / np.sqrt(12), abs=1e-4),
        "source": "marked",
    }
    assert result["scale"]["unit"] == "stance"


def test_capture_rate_and_other_views(tmp_path, simulate, capsys):
    path = points_file(tmp_path / "p.csv", simulate())
    real = analysed(capsys, str(path))
    slowed = analysed(capsys, str(path), "--fps-capture", "240")
    down = [r["checkpoints"]["impact"]["time_s"] - r["checkpoints"]["top"]["time_s"] for r in (real, slowed)]
    assert down[1] == pytest.approx(down[0] / 2, rel=0.06)
    side = analysed(capsys, str(path), "--view", "down-the-line")
    assert "pelvis_shift" not in side["measures"] and "pelvis_thrust" in side["measures"]
    assert "down-the-line" in side["missing"]["pelvis_shift"]
    (sway,) = [f for f in side["findings"] if f["fault"] == "sway"]
    assert sway["verdict"] == "unknown" and "face-on" in sway["text"]


def test_a_clip_with_marks_beside_it(demo, capsys):
    """The demo's swaying student, from video: followed, measured and judged, with the JSON written."""
    out = demo / "r.json"
    assert main(["analyze", str(demo / "maren-tolhurst-iron.mp4"), "--json", str(out)]) == 0
    result = json.loads(out.read_text())
    finding = result["findings"][0]
    assert finding["verdict"] == "fault"
    assert abs(finding["value"] + 7.0) < 2.5 * finding["sigma"]
    assert "drifted" in capsys.readouterr().out
    assert result["clip"]["rate_stored"] == 120.0
    document = demo / "maren-tolhurst-iron.swing.json"
    content = json.loads(document.read_text())
    content["swing"]["school"] = "of-the-east"
    document.write_text(json.dumps(content))
    assert main(["analyze", str(document)]) == 2
    assert "“of-the-east”" in capsys.readouterr().err
    assert main(["analyze", str(document), "--standard", "centred", "--json", str(out)]) == 0
    assert json.loads(out.read_text())["findings"][0]["verdict"] == "fault"


def test_simulate_writes_clip_truth_and_points(tmp_path, capsys):
    clip, truth, points = (tmp_path / n for n in ("s.mp4", "t.json", "p.csv"))
    arguments = ["--fault", "sway=5", "--handed", "left", "--fps", "30", "--size", "320x180"]
    arguments += ["--out", str(clip), "--truth", str(truth), "--points", str(points)]
    assert main(["simulate", *arguments]) == 0
    content = json.loads(truth.read_text())
    assert content["measures"]["pelvis_shift"]["at"]["top"] == pytest.approx(-5.0, abs=0.1)
    assert clip.stat().st_size > 5000
    capsys.readouterr()
    result = analysed(capsys, str(points), "--handed", "left", "--stature", "176")
    assert result["findings"][0]["verdict"] == "fault"
    marks = tmp_path / "marks.csv"
    rows = points.read_text().splitlines()
    at = {n: int(content["checkpoints"][n]["frame"]) for n in ("address", "top", "impact", "finish")}
    wanted = {str(frame) for frame in at.values()}
    kept = [r for r in rows[1:] if r.split(",")[0] in wanted and "ball" not in r]
    marks.write_text("\n".join([rows[0], *kept]))
    more = ["--handed", "left", "--stature", "176", "--checkpoint", f"top={at['top']}"]
    followed = analysed(capsys, str(clip), "--marks", str(marks), *more)
    assert followed["measures"]["pelvis_shift"]["at"]["top"]["value"] < -2


BAD = {
    "not a video": ["analyze", "notes.txt"],
    "empty clip": ["analyze", "empty.mp4"],
    "truncated clip": ["analyze", "cut.mp4"],
    "absent": ["analyze", "absent.csv"],
    "missing column": ["analyze", "column.csv"],
    "nan": ["analyze", "nan.csv"],
    "unknown point": ["analyze", "nose.csv"],
    "no address": ["analyze", "late.csv", "--stature", "176"],
    "unknown school": ["analyze", "good.csv", "--standard", "nonesuch"],
    "unknown checkpoint": ["analyze", "good.csv", "--checkpoint", "noon=3"],
    "checkpoint outside": ["analyze", "good.csv", "--checkpoint", "top=99999"],
    "checkpoint no number": ["analyze", "good.csv", "--checkpoint", "top"],
    "scale out of range": ["analyze", "good.csv", "--cm-per-px", "-1"],
    "stature out of range": ["analyze", "good.csv", "--stature", "17600"],
    "rate out of range": ["analyze", "good.csv", "--fps-capture", "0"],
    "marks for points": ["analyze", "good.csv", "--marks", "good.csv"],
    "json into nowhere": ["analyze", "good.csv", "--json", "nowhere/x.json"],
    "broken document": ["analyze", "broken.swing.json"],
    "no command line": ["analyze"],
    "unknown fault": ["simulate", "--fault", "nonesuch=1", "--out", "x.mp4"],
    "odd size": ["simulate", "--size", "321x181", "--out", "x.mp4"],
    "out into nowhere": ["simulate", "--fps", "10", "--size", "160x160", "--out", "nowhere/x.mp4"],
}


@pytest.mark.parametrize("case", BAD)
def test_bad_input_is_one_sentence_and_exit_code_2(case, tmp_path, simulate, demo, monkeypatch, capsys):
    monkeypatch.chdir(tmp_path)
    simulated = simulate()
    good = points_file(tmp_path / "good.csv", simulated)
    lines = good.read_text().splitlines()
    (tmp_path / "notes.txt").write_text("no film")
    (tmp_path / "empty.mp4").touch()
    whole = (demo / "maren-tolhurst-iron.mp4").read_bytes()
    (tmp_path / "cut.mp4").write_bytes(whole[: len(whole) // 2])
    (tmp_path / "column.csv").write_text("\n".join(line.rsplit(",", 2)[0] for line in lines))
    (tmp_path / "nan.csv").write_text("\n".join([*lines, "300,9.0,grip,nan,1,"]))
    (tmp_path / "nose.csv").write_text("\n".join([*lines, "300,9.0,nose,1,1,"]))
    (tmp_path / "late.csv").write_text(
        "\n".join([lines[0], *(x for x in lines[1:] if int(x.split(",")[0]) > 110)])
    )
    (tmp_path / "broken.swing.json").write_text("{")
    try:
        code = main(BAD[case])
    except SystemExit as stop:
        code = stop.code
    said = capsys.readouterr()
    assert code == 2
    lines = said.err.strip().splitlines()
    assert len(lines) == 1 or case == "out into nowhere"
    assert lines[-1].startswith("kneel")
    assert "Traceback" not in said.err


def test_without_a_display_the_desk_says_so():
    environment = {"PATH": "/usr/bin:/bin", "HOME": "/tmp"}
    done = subprocess.run(
        [sys.executable, "-m", "kneel"], capture_output=True, text=True, env=environment, check=False
    )
    assert done.returncode == 2
    assert "display" in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1


def refused(capsys, *arguments):
    """Exit code 2, one line, no traceback; gives the line."""
    assert main(list(arguments)) == 2
    said = capsys.readouterr().err.strip()
    assert said.startswith("kneel: ") and "\n" not in said and "Traceback" not in said
    return said


def test_a_clip_in_another_s_place_is_not_taken_over(demo, capsys):
    """The document keeps its marks; a sentence says what is wrong; the old clip brought back mends it."""
    document, clip = demo / "maren-tolhurst-iron.swing.json", demo / "maren-tolhurst-iron.mp4"
    before, kept = document.read_bytes(), clip.read_bytes()
    clip.write_bytes((demo / "oona-brackley-wedge.mp4").read_bytes())
    assert "put it back" in refused(capsys, "analyze", str(document))
    clip.unlink()
    assert "put it back" in refused(capsys, "analyze", str(document))
    (demo / "renamed.mp4").write_bytes(kept)
    (demo / f"{clip.name}.evidence").rename(demo / "renamed.mp4.evidence")
    assert main(["analyze", str(document), "--json", "-"]) == 0
    by_document = json.loads(capsys.readouterr().out)["measures"]
    assert main(["analyze", str(demo / "renamed.mp4"), "--json", "-"]) == 0
    assert json.loads(capsys.readouterr().out)["measures"] == by_document
    assert document.read_bytes() == before


def test_what_is_given_outranks_the_document_and_leaves_it_alone(demo, capsys):
    document = demo / "maren-tolhurst-iron.swing.json"
    before = document.read_bytes()

    def told(*more):
        assert main(["analyze", str(document), "--json", "-", *more]) == 0
        return json.loads(capsys.readouterr().out)

    plain, scaled = told(), told("--cm-per-px", "0.5")
    assert plain["scale"]["source"] == "stature" and scaled["scale"] == {
        "unit": "cm",
        "cm_per_px": 0.5,
        "sigma": pytest.approx(0.015, abs=0.01),
        "source": "typed",
    }
    top = [one["measures"]["pelvis_shift"]["at"]["top"]["value"] for one in (plain, scaled)]
    assert top[1] / top[0] == pytest.approx(0.5 / plain["scale"]["cm_per_px"], rel=1e-3)
    other = told("--handed", "left")
    assert other["measures"]["pelvis_shift"]["at"]["top"]["value"] == pytest.approx(-top[0], rel=1e-3)
    pinned = told("--checkpoint", "top=140")
    assert pinned["checkpoints"]["top"] == {
        "frame": 140,
        "time_s": pytest.approx(140 / 120, abs=1e-4),
        "sigma_s": pytest.approx(1 / 120 / 12**0.5, abs=1e-5),
        "source": "marked",
    }
    against = told("--against", "loading")["against"]
    assert against["school"] == "loading" and against["findings"][0]["fault"] == "sway"
    quick, was = told("--fps-capture", "240"), plain["checkpoints"]["top"]["time_s"]
    assert quick["checkpoints"]["top"]["time_s"] == pytest.approx(was / 2, abs=0.01)
    assert "pelvis_shift" not in told("--view", "down-the-line")["measures"]
    assert document.read_bytes() == before


def test_a_rate_that_the_file_gives_away_counts_unless_another_is_said(demo, tmp_path, capsys):
    """Filmed at 120 and stored at 30 frames a second: the same times as of the clip itself."""
    clip = demo / "maren-tolhurst-iron.mp4"
    rows = [f"{m.frame},{m.point},{m.x},{m.y}" for m in load_swing(clip.with_suffix(".swing.json")).marks]
    (tmp_path / "marks.csv").write_text("\n".join(["frame,point,x_px,y_px", *rows]))
    plain, slow = tmp_path / "plain.mp4", slowed(tmp_path / "slow.mp4", clip, 4)
    plain.write_bytes(clip.read_bytes())

    def told(path, *more):
        out = tmp_path / "told.json"
        marks = ["--marks", str(tmp_path / "marks.csv")]
        assert main(["analyze", str(path), *marks, "--json", str(out), *more]) == 0
        return json.loads(out.read_text()), capsys.readouterr().out

    (was, _), (now, words), (said, _) = told(plain), told(slow), told(slow, "--fps-capture", "30")
    assert now["clip"]["rate_stored"] == 30 and now["clip"]["rate_captured"] == 120
    assert "Filmed at 120 frames a second" in words
    for name in ("top", "impact"):
        assert now["checkpoints"][name]["time_s"] == pytest.approx(
            was["checkpoints"][name]["time_s"], abs=0.02
        )
    down = [one["measures"]["downswing_time"]["once"]["value"] for one in (was, now, said)]
    assert down == pytest.approx([down[0], down[0], 4 * down[0]], rel=0.1)


@pytest.mark.parametrize(
    ("options", "about"),
    [
        (["--near=-3,4"], "--near"),
        (["--near", "9" * 12 + ",4"], "cannot be"),
        (["--fps-capture", "0"], "--fps-capture"),
        (["--sources", "flow"], "followed"),
    ],
)
def test_track_refuses_what_cannot_be(demo, capsys, options, about):
    """Numbers beyond any picture, sources that have nothing to follow: one sentence, and nothing written."""
    (demo / "maren-tolhurst-iron.swing.json").unlink()
    out = demo / "x.csv"
    said = refused(capsys, "track", str(demo / "maren-tolhurst-iron.mp4"), "--out", str(out), *options)
    assert about in said and not out.exists()


def test_a_film_without_a_swing_is_named_as_such(tmp_path, capsys):
    """Points of somebody who walks with arms apart: no verdict, and why."""
    lines = ["frame,time_s,point,x_px,y_px,sigma_px"]
    for frame in range(120):
        swing = 60 * np.sin(frame / 9)
        for point, x, y in (
            ("left_wrist", 500 + 3 * frame + swing, 420 - abs(swing)),
            ("right_wrist", 300 + 3 * frame - swing, 420 - abs(swing)),
            ("left_hip", 430 + 3 * frame, 380),
            ("right_hip", 400 + 3 * frame, 380),
            ("left_ankle", 440 + 3 * frame + swing, 620),
            ("right_ankle", 390 + 3 * frame - swing, 620),
        ):
            lines.append(f"{frame},{frame / 60:.4f},{point},{x:.2f},{y:.2f},1.0")
    path = tmp_path / "walk.csv"
    path.write_text("\n".join(lines))
    said = refused(capsys, "analyze", str(path), "--stature", "176")
    assert "No swing shows" in said or "No top shows" in said or "hands" in said
