"""What recordings and files can do to a widget: it is drawn all the same, as shapes with real numbers."""

from __future__ import annotations

import math
import re
import xml.etree.ElementTree as Xml
from pathlib import Path

import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.kinds.kind_samples import sample_project, sample_widget
from avrin.kinds.registry import KINDS
from avrin.project.project import Band, Screen
from avrin.render.bounds import bounds
from avrin.render.scene import scene
from avrin.render.svg import svg
from avrin.storage.files import load, save
from avrin.trace.frames import Column, Event, Trace, Value

NUMBERS: list[tuple[Value, Value]] = [
    (5.0, 0.0), (5.0, -3.0), (5.0, None), (None, 10.0), (-5.0, 10.0), (1e300, 10.0), (1e12, 1e12), (-1e300, 1e-300), (0.0, 0.0),
]  # fmt: skip
TEXTS = ("", "x" * 100_000, "שלום שלום", "🐙🏴\u200d☠️", "e" + "\u0301" * 500, "a\nb\tc", "<&>\"'", None)
SIZES = ((0.0, 0.0), (-5.0, 10.0), (1e9, 1e9), (0.5, 400.0))
SCREENS = ((64, 64), (7680, 4320), (1280, 720))


def shown(
    kind: str,
    numbers: tuple[Value, Value] = (5.0, 10.0),
    text: Value = "words",
    size: tuple[float, float] = (300.0, 60.0),
    screen: tuple[int, int] = (1280, 720),
    slots: int = 2,
    events: int = 1,
) -> str:
    """The widget as SVG, after a look at all of its numbers."""
    widget = sample_widget(KINDS[kind], replace(KINDS[kind].test_sample, size=size))
    bound = bind(sample_project(widget, slots=slots))
    bound.raise_first()
    columns = {"hull": Column.of([numbers[0]]), "full": Column.of([numbers[1]])}
    if text is not None:
        columns["words"] = Column.of([text])
    columns |= {f"crew[{slot}].scrap": Column.of([float(slot)]) for slot in range(slots)}
    happened = [Event(i / max(1, events), "hit", {"points": float(i)}) for i in range(events)]
    trace = Trace.make("t", [1.0], columns, events=happened)
    (placed,) = scene(Tracks(bound, trace), 0, Screen(name="s", size=screen))
    assert all(math.isfinite(side) for side in bounds((placed.group,)))
    made = svg([placed.group], *screen)
    Xml.fromstring(made)
    assert not re.search(r'="[^"]*\b(?:nan|inf)\b', made)
    return made


@pytest.mark.parametrize("kind", KINDS)
def test_the_checks_can_look_at_any_of_it(kind: str) -> None:
    rows = [(hull, full, text) for hull, full in NUMBERS for text in ("words", None, "e" + "\u0301" * 40)]
    screens = tuple(Screen(name=f"{size}", size=size, safe=0.1) for size in SCREENS)
    for size in SIZES:
        one = sample_widget(KINDS[kind], replace(KINDS[kind].test_sample, size=size))
        bound = bind(replace(sample_project(one, replace(one, id="v", repeat="crew")), screens=screens))
        for frames in (len(rows), 1, 0):
            columns = {
                name: Column.of([row[i] for row in rows[:frames]]) for i, name in enumerate(("hull", "full", "words"))
            }
            trace = Trace.make("t", [float(i) for i in range(frames)], columns)
            found = Inspector(CHECKS).inspect(bound, [Tracks(bound, trace)])
            assert all(finding.why and finding.advice for finding in found)
        assert Inspector(CHECKS).inspect(bound, []) is not None  # no recording at all


@pytest.mark.parametrize("kind", KINDS)
def test_a_text_recorded_in_a_numbers_column_is_drawn_as_missing(kind: str) -> None:
    assert shown(kind, ("ninety", "all")) == shown(kind, (None, None))
    assert shown(kind, ("ninety", 10.0)) == shown(kind, (None, 10.0))


@pytest.mark.parametrize("kind", KINDS)
def test_any_number_against_any_maximum(kind: str) -> None:
    for numbers in NUMBERS:
        assert len(shown(kind, numbers)) < 200_000  # a million pips are not drawn one by one


@pytest.mark.parametrize("kind", KINDS)
def test_any_text(kind: str) -> None:
    for text in TEXTS:
        assert len(shown(kind, text=text)) < 1_000_000


@pytest.mark.parametrize("kind", KINDS)
def test_any_size_on_any_screen(kind: str) -> None:
    for size in SIZES:
        shown(kind, size=size)
    for screen in SCREENS:
        shown(kind, screen=screen)


def test_a_roster_of_none_and_of_many() -> None:
    assert shown("table", slots=64).count("<use") > shown("table", slots=2).count("<use")
    assert "words" not in shown("table", slots=0)


def test_a_burst_of_events_leaves_the_newest_lines() -> None:
    lines = re.findall(r'aria-label="(\d+)"|<title>(\d+)</title>', shown("feed", events=10_000))
    told = [int(a or b) for a, b in lines]
    assert 0 < len(told) < 100
    assert 9999 in told


def test_one_bad_value_spoils_nothing_but_itself() -> None:
    bar = replace(
        sample_widget(KINDS["bar"], KINDS["bar"].test_sample),
        look={"fill": "no colour", "back": "#102030", "bands": {"low": {"fill": "#d9902f", "back": 3}}},
        options={"grow": "left", "over": "spil"},
        bands=(Band(name="low", below="5"), Band(name="open"), Band(name="both", below="1", above="2")),
    )
    bound = bind(sample_project(bar))
    one = bound.widgets[bar.id]
    usual = KINDS["bar"].look()
    assert (one.looks[""].back, one.looks[""].fill) == ("#102030", usual.fill)  # type: ignore[attr-defined]
    assert (one.looks["low"].back, one.looks["low"].fill) == ("#102030", "#d9902f")  # type: ignore[attr-defined]
    assert one.options.grow == "left"
    told = {place.within: error.problem for place, error in bound.errors.items()}
    assert told == {
        "look.fill": "'no colour' is not #rrggbb, #rrggbbaa or none",
        "look.bands.low.back": "3 is not #rrggbb, #rrggbbaa or none",
        "options.over": "'spil' is not one of clamp, spill: did you mean 'spill'?",
        "bands.open": "needs exactly one of below, above and when",
        "bands.both": "needs exactly one of below, above and when",
    }
    trace = Trace.make("t", [0.0], {"hull": Column.of([3.0]), "full": Column.of([10.0])})
    assert Tracks(bound, trace).state(one, 0)["band"] == "low"  # a band without a limit is never entered


def test_a_project_with_a_band_without_a_limit_is_saved_and_opened_again(tmp_path: Path) -> None:
    bar = replace(sample_widget(KINDS["bar"], KINDS["bar"].test_sample), bands=(Band(name="open"),))
    project = sample_project(bar)
    save(project, tmp_path / "p.avrin")
    assert load(tmp_path / "p.avrin") == (project, [])


@pytest.mark.parametrize(
    ("change", "word"),
    [({"value": "hul"}, "broken"), ({"value": None}, "broken"), ({"visible": "3"}, "broken"), ({}, "showing")],
)
def test_what_cannot_show_what_it_should_says_so(change: dict[str, str | None], word: str) -> None:
    bar = sample_widget(KINDS["bar"], KINDS["bar"].test_sample)
    inputs = {name: text for name, text in {**bar.inputs, **change}.items() if text is not None}
    bound = bind(sample_project(replace(bar, inputs=inputs, look={"fill": "blue"})))
    assert bound.state_word(bound.widgets[bar.id], "") == word
    assert (bound.fault(bar.id) is None) == (word == "showing")
