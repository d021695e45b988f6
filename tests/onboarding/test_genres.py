"""First offers over recordings of eight genres: vital variables, their full values and dangerous ends, and the rosters."""

from __future__ import annotations

import functools
import re

import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.kinds.registry import KINDS
from avrin.kinds.subject import Offer
from avrin.offers.offers import ranked
from avrin.onboarding.first_hud import first_hud
from avrin.onboarding.recordings import begun
from avrin.project.project import Project, Recording, Screen
from avrin.render.layout import safe_area
from avrin.render.scene import widget_rect
from avrin.trace.frames import Trace
from genres import GENRES, Genre

NAMED = [make.__name__ for make in GENRES]


@functools.cache
def expected(name: str) -> Genre:
    return next(make() for make in GENRES if make.__name__ == name)


@functools.cache
def taken(name: str, *, plain: bool = True) -> tuple[Project, Trace]:
    """A project over a genre's recording; not plain: every column renamed, so that only its behaviour helps."""
    trace = expected(name).trace
    if not plain:
        columns = {f"c{number}": column for number, column in enumerate(trace.columns.values(), 1)}
        trace = Trace(trace.name, trace.t, trace.run, columns, trace.events)
    project, (named,) = begun([(Recording(path="traces/it.csv"), trace)])
    return project, named


@functools.cache
def offered(name: str, *, plain: bool = True) -> list[Offer]:
    return ranked(*taken(name, plain=plain))


def shares(offers: list[Offer]) -> list[Offer]:
    """Those that show how much is left."""
    return [offer for offer in offers if KINDS[offer.widget.kind].share]


@pytest.mark.parametrize("name", NAMED)
def test_the_first_offer_of_a_vital_is_one_and_every_vital_is_full_at_what_it_is(name: str) -> None:
    genre = expected(name)
    found = {offer.widget.inputs["value"]: offer.widget.inputs["full"] for offer in shares(offered(name))}
    assert next(iter(found)) in genre.vitals
    assert {vital for vital in genre.vitals if vital not in found} == set()
    told = {vital: found[vital] for vital in genre.vitals}
    assert {key: full if full in ("max_hp", "max_mp") else float(full) for key, full in told.items()} == genre.vitals


@pytest.mark.parametrize("name", NAMED)
def test_bands_are_only_where_danger_is_and_nothing_of_the_programs_own_is_offered(name: str) -> None:
    genre = expected(name)
    about = {offer.widget.inputs.get("value", ""): offer.widget for offer in offered(name)}
    assert [value for value, widget in about.items() if value in genre.calm and widget.bands] == []
    assert [value for value in about if value in genre.hidden] == []
    warned = [value for value in genre.vitals if value not in genre.calm and about[value].bands]
    assert warned, "a vital without a warning"
    for value in warned:
        assert all(band.below for band in about[value].bands)  # where it runs out


@pytest.mark.parametrize("name", NAMED)
def test_no_roster_is_missed_or_invented(name: str) -> None:
    project, _ = taken(name)
    found = {roster.name: (roster.slots, frozenset(f.name for f in roster.fields)) for roster in project.rosters}
    assert found == expected(name).rosters
    assert taken(name, plain=False)[0].rosters == ()


def test_behaviour_alone_tells_a_vital_in_six_of_eight() -> None:
    right = []
    for name in NAMED:
        genre, (project, _) = expected(name), taken(name, plain=False)
        listed = list(genre.trace.columns)
        first = shares(offered(name, plain=False))[0].widget.inputs["value"]
        own = listed[int(first.removeprefix("c")) - 1]
        called = {one.name: one.name for one in project.variables}
        del called
        vitals = {re.sub(r"\W+", "_", vital.replace("[slot].", " ")).lower().split("_")[-1] for vital in genre.vitals}
        right.append(re.sub(r"\W+", "_", own).lower().split("_")[-1] in vitals)
    assert sum(right) >= 6


@pytest.mark.parametrize("name", NAMED)
@pytest.mark.parametrize("plain", [True, False])
def test_a_first_hud_is_six_widgets_apart_inside_every_safe_area_and_without_fault(name: str, plain: bool) -> None:
    project, trace = taken(name, plain=plain)
    screens = (
        Screen(name="desk", size=(1920, 1080)), Screen(name="tall", size=(1080, 1440), safe=0.05),
        Screen(name="wide", size=(3440, 1440), safe=0.03),
    )  # fmt: skip
    made = first_hud(replace(project, screens=screens), trace)
    assert len(made.widgets) == 6
    bound = bind(made, events=trace.event_kinds)
    bound.raise_first()
    for screen in screens:
        safe, rects = safe_area(screen), [widget_rect(made, widget, screen) for widget in made.widgets]
        for rect in rects:
            assert safe.x - 1 <= rect.x
            assert safe.y - 1 <= rect.y
            assert rect.x + rect.width <= safe.x + safe.width + 1
            assert rect.y + rect.height <= safe.y + safe.height + 1
        for number, one in enumerate(rects):
            for other in rects[number + 1 :]:
                beside = one.x + one.width <= other.x or other.x + other.width <= one.x
                assert beside or one.y + one.height <= other.y or other.y + other.height <= one.y
    for widget in made.widgets:
        words = KINDS[widget.kind].words
        assert widget.inputs.get(words) if words else widget.options  # something says what it is
