"""The panel: its plate, its picture, its nine slices."""

from __future__ import annotations

from pathlib import Path

import pytest

from avrin.binding.binding import bind
from avrin.kinds.kind import Drawing
from avrin.kinds.panel import KIND, Options, PanelLook
from avrin.kinds.shapes import Box, NineSlice, Picture
from avrin.render.fonts import TextMeasure
from avrin.render.nine_slice import nine_parts
from avrin.trace.frames import Value
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
    assert shapes(slice=10) == (NineSlice(0, 0, 120, 50, source, (10, 10, 10, 10)),)


def test_nine_parts_keep_the_corners() -> None:
    parts = dict(nine_parts(NineSlice(5, 5, 100, 60, "", (10,) * 4), (40, 30)))
    assert parts[5, 5, 10, 10] == (0, 0, 10, 10)
    assert parts[95, 55, 10, 10] == (30, 20, 10, 10)
    assert parts[15, 5, 80, 10] == (10, 0, 20, 10)
    assert parts[15, 15, 80, 40] == (10, 10, 20, 10)
    assert len(parts) == 9
    small = dict(nine_parts(NineSlice(0, 0, 12, 60, "", (10,) * 4), (40, 30)))
    assert (0, 0, 6, 10) not in small  # the border shrinks alike on both axes, where the box is too narrow for it
    assert all(w > 0 and h > 0 for _, _, w, h in small)


def test_a_band_has_a_look_of_its_own() -> None:
    bound = bind(
        project("panel", {}, bands=[{"name": "low", "when": "hull < 9"}], look={"bands": {"low": {"back": "#ff0000"}}})
    )
    bound.raise_first()
    assert bound.widgets["w"].looks["low"].back == "#ff0000"  # type: ignore[attr-defined]


def test_each_side_has_a_border_of_its_own() -> None:
    parts = dict(nine_parts(NineSlice(0, 0, 100, 50, "", (10, 5, 20, 0)), (40, 30)))
    # x: 0–10, 10–80, 80–100 from 0–10, 10–20, 20–40; y: 0–5, 5–50 from 0–5, 5–30; nothing at the bottom.
    assert parts == {
        (0, 0, 10, 5): (0, 0, 10, 5), (10, 0, 70, 5): (10, 0, 10, 5), (80, 0, 20, 5): (20, 0, 20, 5),
        (0, 5, 10, 45): (0, 5, 10, 25), (10, 5, 70, 45): (10, 5, 10, 25), (80, 5, 20, 45): (20, 5, 20, 25),
    }  # fmt: skip


def test_what_is_too_small_for_its_border_keeps_the_corners_shape() -> None:
    parts = dict(nine_parts(NineSlice(0, 0, 15, 50, "", (10, 5, 20, 5)), (40, 30)))
    assert set(parts) == {(0, 0, 5, 2.5), (5, 0, 10, 2.5), (0, 2.5, 5, 45), (5, 2.5, 10, 45), (0, 47.5, 5, 2.5),
                          (5, 47.5, 10, 2.5)}  # fmt: skip


@pytest.mark.parametrize("wrong", [[1, 2, 3], [1, 2, 3, -4], "12", {"left": 3}])
def test_a_border_of_another_form_is_reported_and_left_out(wrong: object) -> None:
    bound = bind(project("panel", {}, look={"slice": wrong}))
    assert [place.part for place in bound.errors] == ["look"]
    assert bound.widgets["w"].looks[""].slice == 0  # type: ignore[attr-defined]
