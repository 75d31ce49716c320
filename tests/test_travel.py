"""Files that travel: what goes in comes out, and general programs read what we write."""

from __future__ import annotations

import json

import ezc3d
import numpy as np
import pandas
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pycocotools.coco import COCO

from kneel.cli.main import main
from kneel.documents.coco import KEYPOINTS, NAMED, read_coco, write_coco
from kneel.documents.space_c3d import write_c3d
from kneel.documents.swing_file import load_swing
from kneel.evidence.kept import kept_swing
from kneel.model import POINTS, Hand, PointsError, anatomical
from kneel.motion.measures import REGISTRY
from kneel.motion.space.linked import link
from tests.filed import DEMO
from tests.test_space import both

LESSON = DEMO / "2026-11-03"
FACE = LESSON / "maren-tolhurst-iron.swing.json"
place = st.floats(-500, 4000).map(lambda v: round(v, 3))


@st.composite
def some_rows(draw):
    """Points of some frames, not every one on each."""
    steps = draw(st.lists(st.integers(1, 5), min_size=2, max_size=12))
    frames = np.cumsum(steps).tolist()
    points = draw(st.lists(st.sampled_from(POINTS), min_size=1, max_size=6, unique=True))
    rows = []
    for frame in frames:
        for point in [points[0], *(p for p in points[1:] if draw(st.booleans()))]:
            sigma = draw(st.none() | st.floats(0.1, 30).map(lambda v: round(v, 3)))
            rows.append((frame, frame / 60, point, draw(place), draw(place), sigma))
    return rows


@given(some_rows())
def test_points_come_out_of_coco_as_they_went_in(tmp_path_factory, rows):
    path = tmp_path_factory.mktemp("coco") / "a.coco.json"
    write_coco(path, rows, clip="a.mp4", width=1280, height=720)
    back = read_coco(path)
    at = {int(frame): k for k, frame in enumerate(back.frames)}
    assert set(at) == {row[0] for row in rows} and set(back.xy) == {row[2] for row in rows}
    assert sum(int(np.isfinite(xy[:, 0]).sum()) for xy in back.xy.values()) == len(rows)
    for frame, time_s, point, x, y, sigma in rows:
        k = at[frame]
        assert back.xy[point][k] == pytest.approx((x, y), abs=1e-9)
        assert back.times_s[k] == pytest.approx(time_s, abs=1e-6)
        assert np.isnan(back.sigma[point][k]) if sigma is None else back.sigma[point][k] == sigma


def test_coco_s_own_library_reads_the_points_of_a_clip(tmp_path, capsys):
    """Names and order as COCO has them, a visibility for each, and the same verdict from them as from CSV."""
    coco, plain = tmp_path / "p.coco.json", tmp_path / "p.csv"
    for path in (coco, plain):
        words = ["track", str(FACE), "--sources", "flow,colour", "--out", str(path)]
        assert main(words) == 0
    capsys.readouterr()
    told = COCO(str(coco))
    (category,) = told.loadCats(told.getCatIds())
    assert category["keypoints"][:17] == list(NAMED) and category["keypoints"] == list(KEYPOINTS)
    assert len(told.getImgIds()) == 300
    (body,) = told.loadAnns(told.getAnnIds(imgIds=[145]))
    seen = np.array(body["keypoints"]).reshape(-1, 3)
    assert (seen[:5] == 0).all() and body["num_keypoints"] == int((seen[:, 2] == 2).sum()) == 10
    table = pandas.read_csv(plain)
    here = table[table.frame == 145].set_index("point")
    for name, (x, y, v) in zip(category["keypoints"], seen, strict=True):
        assert (v == 2) == (name in here.index)
        if v:
            assert (x, y) == pytest.approx((here.x_px[name], here.y_px[name]))
    capsys.readouterr()
    results = []
    for path in (coco, plain):
        words = [
            "analyze",
            str(path),
            "--view",
            "face-on",
            "--handed",
            "right",
            "--stature",
            "168",
            "--json",
            "-",
        ]
        assert main(words) == 0
        results.append(json.loads(capsys.readouterr().out))
    shifts = [one["measures"]["pelvis_shift"]["at"]["top"]["value"] for one in results]
    assert shifts[0] == pytest.approx(shifts[1], abs=0.01)


def test_what_is_no_coco_of_one_body_is_told_in_a_sentence(tmp_path):
    good = tmp_path / "g.coco.json"
    write_coco(good, [(k, k / 60, "left_hip", 1.0, 2.0, None) for k in range(3)], clip="a", width=9, height=9)
    raw = json.loads(good.read_bytes())
    bare = json.loads(good.read_bytes())
    for image in bare["images"]:
        del image["time_s"]
    (tmp_path / "bare.coco.json").write_text(json.dumps(bare))
    assert read_coco(tmp_path / "bare.coco.json", 120.0).times_s[1] == pytest.approx(1 / 120)
    strange = {**raw, "categories": [{"id": 1, "keypoints": ["wing"] * len(KEYPOINTS)}]}
    twice = {**raw, "annotations": raw["annotations"] * 2}
    short = {**raw, "annotations": [{**one, "keypoints": [1.0]} for one in raw["annotations"]]}
    cases = {
        "does not tell when": bare,
        "no point that Kneel knows": strange,
        "two bodies": twice,
        "has not the points": short,
        "holds no body": {**raw, "annotations": []},
        "no COCO": [1, 2],
    }
    for words, content in cases.items():
        path = tmp_path / "x.coco.json"
        path.write_text(json.dumps(content))
        with pytest.raises(PointsError, match=words):
            read_coco(path)
        assert main(["analyze", str(path)]) == 2
    with pytest.raises(PointsError, match="no file"):
        read_coco(tmp_path / "gone.coco.json")


def test_a_table_of_many_swings_is_tidy_and_read_by_a_general_program(tmp_path):
    """A row a swing and checkpoint, one value a cell, with unit and error; the values are the swing's."""
    out = tmp_path / "t.csv"
    swings = [str(FACE), str(FACE).replace("iron", "iron-line"), str(LESSON / "idris-vale-iron.swing.json")]
    assert main(["table", *swings, "--out", str(out)]) == 0
    table = pandas.read_csv(out)
    assert not table.duplicated(["swing", "checkpoint"]).any() and table.swing.nunique() == 3
    units = {column.rpartition("[")[2].rstrip("]") for column in table.columns if "[" in column}
    assert units == {"cm", "stance widths", "deg", "%", "ratio", "s"}
    kept = kept_swing(FACE)
    mine = table[table.swing == FACE.name].set_index("checkpoint")
    assert set(mine.index) == set(kept.study.checkpoints)
    for key, unit in (("pelvis_shift", "cm"), ("side_tilt", "deg"), ("knee_gap", "ratio")):
        told = kept.study.at(key, "top")
        assert mine.loc["top", f"{key} [{unit}]"] == pytest.approx(told.value, abs=1e-3)
        assert mine.loc["top", f"{key} error [{unit}]"] == pytest.approx(told.sigma, abs=1e-3)
    line = table[table.view == "down-the-line"]
    assert line["pelvis_shift [cm]"].isna().all() and line["pelvis_thrust [cm]"].notna().any()
    assert (table.golfer == load_swing(FACE).golfer).sum() > 10
    assert {c.split(" ")[0] for c in table.columns} & set(REGISTRY) > {"pelvis_tilt", "forward_bend"}


@pytest.mark.parametrize("seed", [1, 3])
def test_a_body_in_space_is_read_by_a_library_of_motion_capture(tmp_path, seed):
    """Millimetres, anatomical names, an even rate, right-handed axes: the left side lies to the left."""
    across, along, _ = both(seed)
    linked, hand = link(across, along), across.setup.hand
    assert hand is (Hand.LEFT if seed == 3 else Hand.RIGHT)
    path = tmp_path / "s.c3d"
    count = write_c3d(path, linked, hand)
    read = ezc3d.c3d(str(path))
    labels = read["parameters"]["POINT"]["LABELS"]["value"]
    points = read["data"]["points"][:3]
    assert points.shape == (3, len(labels), count)
    assert read["parameters"]["POINT"]["RATE"]["value"][0] == 120.0
    assert set(labels) == {anatomical(name, hand) for name in linked.body.points}
    times = linked.body.times_s[0] + np.arange(count) / 120.0
    for name in ("lead_hip", "trail_knee", "head"):
        k = labels.index(anatomical(name, hand))
        for j in (0, count // 2, count - 1):
            x, up, out = linked.body.placed(float(times[j]))[name]
            ball = 1.0 if hand is Hand.LEFT else -1.0
            assert points[:, k, j] == pytest.approx((10 * x, 10 * ball * out, 10 * up), abs=0.5)
    left, right = (points[:, labels.index(f"{side}_hip"), 0] for side in ("left", "right"))
    to_ball = np.array([0.0, 1.0 if hand is Hand.LEFT else -1.0, 0.0])
    assert (right - left) @ np.cross(to_ball, [0.0, 0.0, 1.0]) > 100
    head, foot = points[:, labels.index("head"), 0], points[:, labels.index("left_ankle"), 0]
    assert head[2] - foot[2] > 1000
    assert main(["analyze", str(FACE), "--c3d", str(tmp_path / "no.c3d")]) == 2
    assert not (tmp_path / "no.c3d").exists()
