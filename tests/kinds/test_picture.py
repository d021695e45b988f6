"""The picture: an asset by band; what is not there draws a clear mark."""

from __future__ import annotations

from pathlib import Path

import pytest

from avrin.kinds.icons import ICONS
from avrin.kinds.kind import Drawing
from avrin.kinds.picture import Options, PictureLook
from avrin.kinds.registry import KINDS
from avrin.kinds.shapes import Box, Picture, TextRun
from avrin.kinds.shapes import Path as Lines
from avrin.render.fonts import TextMeasure
from avrin.trace.frames import Value
from widget_helpers import states

BANDS = [{"name": "gone", "when": "hull <= 0"}, {"name": "low", "when": "hull < 25"}, {"name": "odd", "when": "leak"}]
ASSETS: list[tuple[Value, Value, str]] = [
    (100.0, False, "heart"), (25.0, False, "heart"), (24.9, False, "drop"), (0.1, False, "drop"), (0.0, False, "skull"),
    (-5.0, False, "skull"), (None, False, "heart"), (100.0, True, "heart"), (None, None, "heart"), (10.0, True, "drop"),
    (0.0, True, "skull"), (1e9, None, "heart"),
]  # fmt: skip


@pytest.mark.parametrize(("hull", "leak", "asset"), ASSETS)
def test_asset_by_band_table(hull: Value, leak: Value, asset: str) -> None:
    options = {"asset": "heart", "by_band": {"low": "drop", "gone": "skull"}}
    assert states("picture", {}, options, BANDS, hull=[hull], leak=[leak])[0]["asset"] == asset


def shapes(asset: str, folder: Path, tint: str = "") -> tuple[object, ...]:
    drawing = Drawing({"asset": asset}, 60, 40, Options(), PictureLook(tint=tint), TextMeasure(), "—", folder=folder)
    return KINDS["picture"].shapes(drawing)


def test_icons_keep_their_shape_pictures_fill_the_box_and_what_is_not_there_is_marked(tmp_path: Path) -> None:
    (tmp_path / "a.png").write_bytes(b"x")
    (icon,) = shapes("heart", tmp_path, "#ff0000")
    assert isinstance(icon, Lines)
    assert icon.fill == "#ff0000"
    xs = [float(part) for command in icon.commands for part in command[1::2]]
    assert 10 <= min(xs) <= max(xs) <= 50  # a square of 40 in the middle of 60
    assert shapes("a.png", tmp_path) == (Picture(0, 0, 60, 40, str(tmp_path / "a.png")),)
    for gone in ("b.png", "../a.png", "/etc/passwd"):
        back, cross, word = shapes(gone, tmp_path)
        assert isinstance(back, Box)
        assert isinstance(cross, Lines)
        assert isinstance(word, TextRun)
        assert word.text == f"no {gone.rsplit('/', 1)[-1]}"
    assert shapes("", tmp_path) == ()


@pytest.mark.parametrize("name", list(ICONS))
def test_every_icon_lies_in_its_square_and_is_closed(name: str) -> None:
    commands = ICONS[name]
    numbers = [float(part) for command in commands for part in command[1:]]
    assert 0 <= min(numbers) < 0.35
    assert 0.65 < max(numbers) <= 1
    assert commands[0][0] == "M"
    assert commands[-1] == ("Z",)
