"""Points files: what goes in comes out, and what is wrong is said in one sentence."""

from __future__ import annotations

import numpy as np
import pytest

from kneel.documents.points_csv import read_marks, read_points, write_points
from kneel.model import PointsError

HEAD = "frame,time_s,point,x_px,y_px,sigma_px\n"


def test_points_round_trip(tmp_path):
    rows = [
        (f, f / 120, p, 10.5 + f, 20.25, 1.5 if f % 2 else None)
        for f in (3, 4, 9)
        for p in ("grip", "left_hip")
    ]
    path = tmp_path / "p.csv"
    write_points(path, rows)
    read = read_points(path)
    assert read.frames.tolist() == [3, 4, 9]
    np.testing.assert_allclose(read.xy["grip"][:, 0], [13.5, 14.5, 19.5])
    assert np.isnan(read.sigma["left_hip"]).tolist() == [False, True, False]
    assert len(read_marks(path)) == 6


def test_points_may_come_from_a_spreadsheet(tmp_path):
    """A byte order mark, spaces, Windows line ends and columns in another order are no hindrance."""
    path = tmp_path / "p.csv"
    text = "\ufeffpoint , frame,x_px,y_px,time_s\r\n grip,0,1,2,0.0\r\ngrip,1,2,2,0.01\r\n"
    path.write_bytes(text.encode())
    assert read_points(path).xy["grip"].tolist() == [[1, 2], [2, 2]]


@pytest.mark.parametrize(
    ("content", "about"),
    [
        ("", "empty"),
        ("frame,time_s,point,x_px\n0,0,grip,1\n", "y_px"),
        (HEAD + "0,0,grip,nan,1,\n1,0.1,grip,1,1,\n", "x_px"),
        (HEAD + "0,0,grip,1,inf,\n1,0.1,grip,1,1,\n", "y_px"),
        (HEAD + "0,0,grip,one,1,\n", "x_px"),
        (HEAD + "0,0,nose,1,1,\n", "nose"),
        (HEAD + "0,0,grip,1,1,\n0,0,grip,2,2,\n1,1,grip,1,1,\n", "twice"),
        (HEAD + "0,0,grip,1,1,\n1,0,grip,1,1,\n", "time"),
        (HEAD + "0,0,grip,1,1,\n0,0.5,head,1,1,\n1,1,grip,1,1,\n", "two different times"),
        (HEAD, "holds no frame"),
        (HEAD + "0.5,0,grip,1,1,\n", "whole number"),
        (HEAD + "-1,0,grip,1,1,\n", "whole number"),
        (HEAD + "0,0,grip,1,1,0\n", "sigma_px"),
        (HEAD + "0,0,grip,1e9,1,\n", "outside"),
        (HEAD + '0,0,"grip,1,1,\n', "CSV"),
        (HEAD + "0,0,grip,1\n1,0,grip,1\n", "y_px"),
        ("\x00\x01\x02", "column"),
    ],
)
def test_bad_points_are_named(tmp_path, content, about):
    path = tmp_path / "p.csv"
    path.write_text(content)
    with pytest.raises(PointsError, match=about) as caught:
        read_points(path)
    assert "\n" not in str(caught.value)


def test_points_that_are_no_text(tmp_path):
    path = tmp_path / "p.csv"
    path.write_bytes(b"\xff\xfe\x00frame")
    with pytest.raises(PointsError, match="UTF-8"):
        read_points(path)
    with pytest.raises(PointsError, match="no file"):
        read_points(tmp_path / "absent.csv")
