"""Pictures in boxes of another shape: sizes worked out by hand."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.kinds.proportions import DrawnBox, drawn_box, in_effect, own_size
from avrin.kinds.shapes import Clip, Group, Picture
from avrin.project.project import USUAL_SCREEN, Place, Project, Proportions, Widget
from avrin.render.bounds import bounds
from avrin.render.scene import scene
from avrin.trace.frames import Trace

WIDE = (200.0, 100.0)
BOX = DrawnBox(10.0, 20.0, 400.0, 300.0)


@pytest.mark.parametrize(
    ("how", "drawn"),
    [
        ("keep", (10, 70, 400, 200)), ("cover", (-90, 20, 600, 300)), ("own", (110, 120, 200, 100)),
        ("stretch", (10, 20, 400, 300)), ("auto", (10, 20, 400, 300)),
    ],
)  # fmt: skip
def test_a_picture_is_twice_as_wide_as_high(how: Proportions, drawn: tuple[float, ...]) -> None:
    assert drawn_box(how, WIDE, BOX) == drawn


def test_own_pixels_are_scaled_and_unknown_sizes_fill_the_box() -> None:
    assert drawn_box("own", WIDE, BOX, 0.5) == (160, 145, 100, 50)
    assert drawn_box("keep", None, BOX) == BOX


@pytest.mark.parametrize(
    ("height", "applies"), [(100, "keep"), (101.9, "keep"), (98.1, "keep"), (102.5, "stretch"), (97.5, "stretch")]
)
def test_what_says_nothing_is_kept_within_two_per_cent(height: float, applies: str) -> None:
    assert in_effect("auto", (200.0, height), (400.0, 200.0)) == applies
    assert in_effect("stretch", (200.0, 100.0), (400.0, 200.0)) == "stretch"


SIDE = st.floats(1, 4000)


@given(st.sampled_from(["keep", "cover", "own"]), st.tuples(SIDE, SIDE), SIDE, SIDE)
def test_all_but_stretched_ones_keep_their_shape_about_the_middle(
    how: Proportions, size: tuple[float, float], width: float, height: float
) -> None:
    x, y, wide, high = drawn_box(how, size, DrawnBox(0, 0, width, height))
    assert wide * size[1] == pytest.approx(high * size[0])
    assert (x + wide / 2, y + high / 2) == pytest.approx((width / 2, height / 2))
    slack = 1e-9 * max(width, height)
    if how == "keep":
        assert wide <= width + slack
        assert high <= height + slack
    if how == "cover":
        assert wide >= width - slack
        assert high >= height - slack


@pytest.mark.parametrize(
    ("root", "size"),
    [
        ('width="30" height="20"', (30, 20)), ('width="30px" height="1in"', (30, 96)),
        ('width="30pt" height="2pc"', (40, 32)), ('width="25.4mm" height="5.08cm"', (96, 192)),
        ('viewBox="0 0 64 32"', (64, 32)), ('viewBox="-5,-5,64,32" width="128"', (128, 64)),
        ('viewBox="0 0 64 32" height="8"', (16, 8)), ('width="100%" height="100%" viewBox="0 0 9 3"', (9, 3)),
        ("", (300, 150)), ('viewBox="0 0 0 0"', (300, 150)), ('viewBox="a b c d" width="9"', (9, 150)),
    ],
)  # fmt: skip
def test_an_svg_is_as_large_as_its_root_says(tmp_path: Path, root: str, size: tuple[float, float]) -> None:
    file = tmp_path / "a.svg"
    file.write_text(f'<svg xmlns="http://www.w3.org/2000/svg" {root}><rect width="4" height="4"/></svg>')
    assert own_size(str(file)) == pytest.approx(size)


def test_what_is_no_picture_has_no_size(tmp_path: Path) -> None:
    for name, content in (("a.svg", b"<svg"), ("b.svg", b""), ("c.png", b"\x89PNG\r\n\x1a\n"), ("d.png", b"no")):
        (tmp_path / name).write_bytes(content)
        assert own_size(str(tmp_path / name)) is None
    assert own_size(str(tmp_path / "none.png")) is None
    assert own_size(str(tmp_path)) is None


def test_a_size_follows_the_file(tmp_path: Path) -> None:
    file = tmp_path / "a.png"
    Image.new("RGB", (30, 20)).save(file)
    assert own_size(str(file)) == (30, 20)
    Image.new("RGB", (3000, 20)).save(file)
    assert own_size(str(file)) == (3000, 20)


def drawn(folder: Path, **options: Any) -> tuple[Any, ...]:
    Image.new("RGB", (40, 20), "#336699").save(folder / "map.png")
    widget = Widget(id="map", kind="picture", options={"asset": "map.png", **options}, place=Place(size=(384.0, 65.0)))
    bound = bind(Project(widgets=(widget,)), folder=folder)
    assert not bound.errors
    (placed,) = scene(Tracks(bound, Trace.make("dive", [0.0], {})), 0, USUAL_SCREEN)
    return placed.group.shapes


def test_the_picture_widget_draws_its_file_in_proportion(tmp_path: Path) -> None:
    (kept,) = drawn(tmp_path, proportions="keep")
    assert isinstance(kept, Picture)
    assert (kept.x, kept.y, kept.width, kept.height) == (127, 0, 130, 65)
    (stretched,) = drawn(tmp_path)
    assert (stretched.width, stretched.height) == (384, 65)
    (covering,) = drawn(tmp_path, proportions="cover")
    assert isinstance(covering, Group)
    assert covering.clip == Clip(0, 0, 384, 65)
    assert tuple(bounds((covering,))) == (0, 0, 384, 65)
    (inner,) = covering.shapes
    assert isinstance(inner, Picture)
    assert (inner.width, inner.height, inner.y) == (384, 192, -63.5)
