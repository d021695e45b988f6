"""Each sort of shape as SVG, to the character: a table worked by hand."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from PIL import Image

from avrin.kinds.shapes import Box, Clip, Group, NineSlice, Picture, Shape, TextRun
from avrin.kinds.shapes import Path as Lines
from avrin.render.nine_slice import is_within, nine_parts, picture_size
from avrin.render.svg import svg

SHAPES: list[tuple[Shape, str]] = [
    (Box(1, 2, 30, 4, "#102030"), '<rect x="1" y="2" width="30" height="4" fill="#102030"/>'),
    (Box(0, 0, 10, 4, "#10203080", 3), '<rect x="0" y="0" width="10" height="4" rx="2" fill="#102030" fill-opacity="0.502"/>'),
    (Box(0, 0, 10, 8, "", 3, "#ffffff", 2),
     '<rect x="1" y="1" width="8" height="6" rx="2" fill="none" stroke="#ffffff" stroke-width="2"/>'),
    (Box(0, 0, 1, 1, "#000000", 0, "#ffffff80", 4),
     '<rect x="2" y="2" width="0" height="0" fill="#000000" stroke="#ffffff" stroke-width="4" stroke-opacity="0.502"/>'),
    (Lines((("M", 0.00004, -0.00004), ("L", 1.25, 2), ("Z",)), "#abcdef", "#fedcba", 1.5),
     '<path d="M 0 0 L 1.25 2 Z" fill="#abcdef" stroke="#fedcba" stroke-width="1.5"/>'),
    (Lines((("M", 0, 0),), "", "#fedcba", 0), '<path d="M 0 0" fill="none"/>'),
    (Group((), 3, 4), '<g transform="translate(3 4) scale(1)">\n</g>'),
    (Group((), 0, 0, 2, 0.5, name="a&b"), '<g transform="translate(0 0) scale(2)" opacity="0.5" data-widget="a&amp;b">\n</g>'),
    (Group((), opacity=1.0), "<g>\n</g>"),
]  # fmt: skip


@pytest.mark.parametrize(("shape", "text"), SHAPES)
def test_a_shape_is_written_exactly(shape: Shape, text: str) -> None:
    assert text in svg([shape], 100, 50)


def test_a_clip_is_defined_once_for_each_group() -> None:
    made = svg([Group((), clip=Clip(1, 2, 3, 4, 9)), Group((), clip=Clip(5, 6, 7, 8))], 100, 50)
    assert '<clipPath id="c1"><rect x="1" y="2" width="3" height="4" rx="1.5"/></clipPath>' in made
    assert '<clipPath id="c2"><rect x="5" y="6" width="7" height="8"/></clipPath>' in made
    assert '<g clip-path="url(#c1)">' in made


def test_a_line_of_text_hangs_from_its_left_end_its_middle_or_its_right_end() -> None:
    def left(align: str) -> float:
        made = svg([TextRun(50, 20, "Hull 30", 16, "#ffffff", align=align)], 100, 50)  # type: ignore[arg-type]
        found = re.search(r"translate\(([-\d.]+) 20\) scale\(([\d.]+) -([\d.]+)\)", made)
        assert found is not None
        assert found[2] == found[3]
        return float(found[1])

    width = 50 - left("right")
    assert left("left") == 50
    assert left("center") == pytest.approx(50 - width / 2, abs=1e-3)
    assert 40 < width < 70


def test_letters_are_there_once_and_outlined_twice_as_wide_for_they_cover_the_inner_half() -> None:
    made = svg([TextRun(0, 9, "aa", 10, "#fff000", edge="#000000", edge_width=2)], 100, 50)
    assert len(re.findall(r'<path id="g\d+"', made)) == 1
    assert made.count("<use ") == 2
    scale = float(re.search(r"scale\(([\d.]+) ", made)[1])  # type: ignore[index]
    wide = float(re.search(r'stroke-width="([\d.]+)"', made)[1])  # type: ignore[index]
    assert wide * scale == pytest.approx(4, rel=1e-3)
    assert 'paint-order="stroke"' in made
    assert "<use" not in svg([TextRun(0, 9, "aa", 0, "#fff000")], 100, 50)  # a box without height


def test_pictures_are_within_tinted_and_cut(tmp_path: Path) -> None:
    at = tmp_path / "art.png"
    Image.new("RGBA", (8, 4), "#ff0000").save(at)
    whole = svg([Picture(1, 2, 30, 40, str(at))], 100, 50)
    assert '<image x="1" y="2" width="30" height="40" preserveAspectRatio="none" href="data:image/png;base64,' in whole
    tinted = svg([Picture(0, 0, 8, 4, str(at), "#ff800040")], 100, 50)
    assert '<feColorMatrix values="1 0 0 0 0 0 0.502 0 0 0 0 0 0 0 0 0 0 0 0.251 0"/>' in tinted
    assert "0 0 0 1 0" in svg([Picture(0, 0, 8, 4, str(at), "#ff8000")], 100, 50)  # all of it there
    part = svg([Picture(0, 0, 8, 4, str(at), part=(2.0, 0.0, 4.0, 4.0))], 100, 50)
    assert 'viewBox="2 0 4 4" preserveAspectRatio="none"><image width="8" height="4"' in part
    for wrong in (
        svg([Picture(0, 0, 8, 4, str(at), part=(6.0, 0.0, 4.0, 4.0))], 9, 9),
        svg([Picture(1, 2, 8, 4, "no.png")], 9, 9),
    ):
        assert "<image" not in wrong
        assert "l8 4M" in wrong  # the cross of what cannot be read
    nine = svg([NineSlice(0, 0, 80, 40, str(at), (1, 1, 1, 1))], 100, 50)
    assert nine.count("<image") == 9
    assert svg([NineSlice(0, 0, 8, 4, "no.png", (1, 1, 1, 1))], 100, 50).count("<path") == 1


NINE = [
    # border, box -> the first part, the middle one, the last: where it goes, where it comes from
    (2.0, (0, 0, 40, 20), (0, 0, 2, 2), (2, 2, 36, 16), (38, 18, 2, 2)),
    (2.0, (5, 6, 3, 20), (5, 6, 1.5, 1.5), None, (6.5, 24.5, 1.5, 1.5)),  # too small for its border
    (2.0, (5, 6, 20, 3), (5, 6, 1.5, 1.5), None, (23.5, 7.5, 1.5, 1.5)),
]


@pytest.mark.parametrize(("border", "box", "first", "middle", "last"), NINE)
def test_parts_of_nine_go_where_they_belong(
    border: float, box: tuple[float, ...], first: object, middle: object, last: object
) -> None:
    x, y, wide, high = box
    parts = list(nine_parts(NineSlice(x, y, wide, high, "x.png", (border,) * 4), (10, 8)))
    assert parts[0][0] == first
    assert parts[-1][0] == last
    assert parts[0][1] == (0.0, 0.0, 2.0, 2.0)
    assert parts[-1][1] == (8.0, 6.0, 2.0, 2.0)
    centre = [where for where, source in parts if source == (2.0, 2.0, 6.0, 4.0)]
    assert centre == ([middle] if middle is not None else [])


def test_a_border_wider_than_the_picture_takes_its_halves() -> None:
    parts = list(nine_parts(NineSlice(0, 0, 40, 40, "x.png", (99,) * 4), (10, 8)))
    assert [source for _, source in parts] == [
        (0, 0, 4, 4),
        (4, 0, 2, 4),
        (6, 0, 4, 4),
        (0, 4, 4, 4),
        (4, 4, 2, 4),
        (6, 4, 4, 4),
    ]


WITHIN = [((0, 0, 10, 8), True), ((1, 1, 9, 7), True), ((1, 0, 10, 8), False), ((0, 1, 10, 8), False), ((-1, 0, 2, 2), False),
          ((0, -1, 2, 2), False)]  # fmt: skip


@pytest.mark.parametrize(("part", "inside"), WITHIN)
def test_a_part_is_within_a_picture_or_not(part: tuple[float, float, float, float], inside: bool) -> None:
    assert is_within(part, (10, 8)) is inside


def test_the_size_of_a_picture_is_read_from_its_head(tmp_path: Path) -> None:
    Image.new("RGB", (300, 7)).save(tmp_path / "a.png")
    (tmp_path / "b.png").write_bytes(b"\x89PNG\r\n\x1a\n" + b"0" * 15)
    assert picture_size(str(tmp_path / "a.png")) == (300, 7)
    assert picture_size(str(tmp_path / "b.png")) is None
    assert picture_size(str(tmp_path / "c.png")) is None
