"""Pictures that the command line has painted by the toolkit."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from avrin.app.painting.export import painted
from avrin.cli import main
from avrin.kinds.shapes import Box
from window_fixtures import qapp  # noqa: F401

pytestmark = pytest.mark.usefixtures("qapp")  # later tests want a whole one


def test_a_painted_picture_has_its_size_its_shapes_and_its_ground(tmp_path: Path) -> None:
    (tmp_path / "x.png").write_bytes(painted([Box(10, 5, 20, 10, "#ff8000")], 64, 32))
    pixels = np.asarray(Image.open(tmp_path / "x.png").convert("RGB"))
    assert pixels.shape == (32, 64, 3)
    assert pixels[10, 20].tolist() == [255, 128, 0]
    assert pixels[1, 1].tolist() == [0x14, 0x20, 0x27]
    assert (pixels[5:15, 10:30] == (255, 128, 0)).all()
    assert (pixels[:5] == (0x14, 0x20, 0x27)).all()


def test_frame_paints_a_screen_over_a_plate(demo: Path, tmp_path: Path) -> None:
    base = ["frame", str(demo), "--trace", str(demo.parent / "traces/calm-dive.csv"), "--at", "12"]
    assert main([*base, "--screen", "640x360", "--plate", "wreck", "--out", str(tmp_path / "f.png")]) == 0
    assert main([*base, "--screen", "640x360", "--out", str(tmp_path / "bare.png")]) == 0
    plate, bare = (np.asarray(Image.open(tmp_path / name).convert("RGB"), int) for name in ("f.png", "bare.png"))
    assert plate.shape == bare.shape == (360, 640, 3)
    assert np.abs(plate - bare).max(axis=2).mean() > 10  # the plate is seen
    assert main([*base, "--screen", "handheld", "--out", str(tmp_path / "f.svg")]) == 0
    assert 'width="1280" height="800"' in (tmp_path / "f.svg").read_text()


@pytest.mark.parametrize("more", [["--widget", "hull_bar", "--at", "118"], ["--coverage"]])
def test_a_ladder_and_its_states_are_painted(more: list[str], demo: Path, tmp_path: Path) -> None:
    assert main(["ladder", str(demo), *more, "--out", str(tmp_path / "l.png")]) == 0
    with Image.open(tmp_path / "l.png") as picture:
        assert picture.width == 1280
