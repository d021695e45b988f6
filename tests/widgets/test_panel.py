"""The panel: its plate, its picture, its nine slices."""

from __future__ import annotations

from pathlib import Path

import pytest

from avrin.render import TextMeasure, nine_parts
from avrin.trace import Value
from avrin.widgets import Box, NineSlice, Picture, bind
from avrin.widgets.kind import Drawing
from avrin.widgets.panel import KIND, Options, PanelLook
from widget_helpers import drawn, project, states

VISIBLE: list[tuple[str, Value, bool]] = [
    ("true", 1.0, True), ("false", 1.0, False), ("hull > 0", 1.0, True), ("hull > 0", 0.0, False), ("hull > 0", None, False),
    ("has(hull)", None, False), ("has(hull)", -1.0, True), ("missing", 1.0, False), ("hull in 1..2", 2.0, True),
    ("hull in 1..2", 2.1, False), ("not (hull > 0)", None, False), ("hull otherwise 5 > 3", None, True),
]  # fmt: skip


@pytest.mark.parametrize(("rule", "hull", "shown"), VISIBLE)
def test_visible_table(rule: str, hull: Value, shown: bool) -> None:
    rule = rule.replace("hull otherwise 5 > 3", "(hull otherwise 5) > 3")
    assert states("panel", {"visible": rule}, hull=[hull])[0]["visible"] is shown


def test_a_plate_and_its_edge() -> None:
    look = {"back": "#112233", "edge": "#ffffff", "edge_width": 3, "radius": 7}
    assert drawn("panel", {}, size=(120, 50), look=look, hull=1.0) == (Box(0, 0, 120, 50, "#112233", 7, "#ffffff", 3),)


def test_a_picture_takes_the_plates_place_in_one_piece_or_nine(tmp_path: Path) -> None:
    (tmp_path / "f.png").write_bytes(b"x")
    source = str(tmp_path / "f.png")

    def shapes(**look: object) -> object:
        made = PanelLook(asset="f.png", **look)  # type: ignore[arg-type]
        return KIND.shapes(Drawing({}, 120, 50, Options(), made, TextMeasure(), "—", folder=tmp_path))

    assert shapes() == (Picture(0, 0, 120, 50, source),)
    assert shapes(slice=10) == (NineSlice(0, 0, 120, 50, source, 10),)


def test_nine_parts_keep_the_corners() -> None:
    parts = dict(nine_parts(NineSlice(5, 5, 100, 60, "", 10), (40, 30)))
    assert parts[5, 5, 10, 10] == (0, 0, 10, 10)
    assert parts[95, 55, 10, 10] == (30, 20, 10, 10)
    assert parts[15, 5, 80, 10] == (10, 0, 20, 10)
    assert parts[15, 15, 80, 40] == (10, 10, 20, 10)
    assert len(parts) == 9
    small = dict(nine_parts(NineSlice(0, 0, 12, 60, "", 10), (40, 30)))
    assert (0, 0, 6, 10) not in small  # the border shrinks alike on both axes, where the box is too narrow for it
    assert all(w > 0 and h > 0 for _, _, w, h in small)


def test_a_band_has_a_look_of_its_own() -> None:
    bound = bind(
        project("panel", {}, bands=[{"name": "low", "when": "hull < 9"}], look={"bands": {"low": {"back": "#ff0000"}}})
    )
    bound.raise_first()
    assert bound.widgets["w"].looks["low"].back == "#ff0000"  # type: ignore[attr-defined]
