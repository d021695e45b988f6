"""Icons within texts: their positions in every kind, and what is reported for missing ones."""

from __future__ import annotations

from pathlib import Path

import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.kinds.kind_samples import sample_project, sample_widget
from avrin.kinds.registry import KINDS
from avrin.kinds.shapes import Group, Picture, Shape, TextRun
from avrin.kinds.shapes import Path as Lines
from avrin.project.project import Project, Screen
from avrin.render.fonts import TextMeasure
from avrin.render.scene import scene
from avrin.render.svg import svg
from avrin.rules.template import icon_pieces, split_template
from widget_helpers import over, project

SCREEN = Screen(name="s", size=(1920, 1080))


def flat(shapes: tuple[Shape, ...]) -> list[Shape]:
    return [part for one in shapes for part in (flat(one.shapes) if isinstance(one, Group) else [one])]


def shown(built: Project, folder: Path = Path(), **values: float) -> list[Shape]:
    bound = bind(built, folder=folder)
    bound.raise_first()
    tracks = over(bound, {name: [value] for name, value in {"scrap": 7.0, **values}.items()})
    return flat(tuple(placed.group for placed in scene(tracks, 0, SCREEN)))


def test_a_text_is_split_at_its_icons() -> None:
    assert list(icon_pieces("a{@coin} b{@x/y.png}")) == [("a", ""), ("", "coin"), (" b", ""), ("", "x/y.png")]
    assert [piece.text for piece in split_template("{scrap}{@coin}{{@coin}} ")] == ["", "{@coin}{@coin} "]
    assert list(icon_pieces("no {@} icon {@a b} here")) == [("no {@} icon {@a b} here", "")]


@pytest.mark.parametrize("text", ["{@", "{@a b}", "{@}"])
def test_half_an_icon_is_reported(text: str) -> None:
    with pytest.raises(AvrinError):
        bind(project("label", {"text": text})).raise_first()


def test_an_icon_stands_between_its_letters_as_high_as_they_are() -> None:
    look = {"text_size": 40, "text": "#abcdef"}
    first, icon, last = shown(project("label", {"text": "{scrap}{@coin} left"}, size=(400, 60), look=look))
    assert isinstance(first, TextRun)
    assert isinstance(icon, Lines)
    assert isinstance(last, TextRun)
    assert (first.text, last.text, icon.fill) == ("7", " left", "#abcdef")
    measure = TextMeasure()
    cap, wide = measure.cap_height(40), measure.width("7", 40)
    assert last.x == pytest.approx(wide + 1.35 * cap)
    assert measure.width("7{@coin} left", 40) == pytest.approx(last.x + measure.width(" left", 40))
    xs = [float(p) for c in icon.commands for p in c[1::2]]
    ys = [float(p) for c in icon.commands for p in c[2::2]]
    assert wide < min(xs) < max(xs) < last.x
    assert (min(ys) + max(ys)) / 2 == pytest.approx(first.y - cap / 2, abs=0.5)
    assert max(ys) - min(ys) == pytest.approx(1.25 * cap, rel=0.1)


@pytest.mark.parametrize("align", ["left", "center", "right"])
def test_a_line_with_icons_is_aligned_whole(align: str) -> None:
    parts = shown(project("label", {"text": "{@coin}x"}, size=(300, 40), look={"align": align, "text_size": 20}))
    whole = TextMeasure().width("{@coin}x", 20)
    start = {"left": 0.0, "center": (300 - whole) / 2, "right": 300 - whole}[align]
    run = next(part for part in parts if isinstance(part, TextRun))
    assert run.x == pytest.approx(start + whole - TextMeasure().width("x", 20))


def test_a_picture_keeps_its_colours_and_its_shape(tmp_path: Path) -> None:
    head = b"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR" + (40).to_bytes(4, "big") + (10).to_bytes(4, "big")
    (tmp_path / "wide.png").write_bytes(head)
    (found,) = [p for p in shown(project("label", {"text": "{@wide.png}"}), tmp_path) if isinstance(p, Picture)]
    assert (found.width / found.height, found.tint) == (4.0, "")


@pytest.mark.parametrize("kind", [name for name, kind in KINDS.items() if kind.words])
def test_every_kind_that_says_words_draws_icons_in_them(kind: str) -> None:

    widget = sample_widget(KINDS[kind], KINDS[kind].manual_sample)
    widget = replace(widget, inputs={**widget.inputs, KINDS[kind].words: "x{@coin}"})
    bound = bind(sample_project(widget, slots=1))
    tracks = Tracks(bound, over(bound, {"hull": [50.0], "full": [100.0]}).trace)
    (placed,) = scene(tracks, 0, SCREEN)
    assert all("{@" not in part.text for part in flat((placed.group,)) if isinstance(part, TextRun))
    assert "{@" not in svg([placed.group], 100, 100)


def test_an_icon_that_is_not_there_is_found() -> None:
    built = project("label", {"text": "{scrap}{@coins}"})
    found = [f for f in Inspector(CHECKS).inspect(bind(built), []) if f.code == "asset-missing"]
    assert [(f.widget, f.about) for f in found] == [("w", "coins")]
