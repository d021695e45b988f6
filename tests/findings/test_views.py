"""Findings of one way to look at a HUD: exactly those of that screen, size, plate, language and eye."""

from __future__ import annotations

from pathlib import Path

import pytest
from PIL import Image

from avrin.binding.binding import bind
from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.findings.case import Case
from avrin.findings.finding import Check, Finding
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.findings.views import View
from avrin.project.project import Place, Plate, Project, Screen, Widget
from avrin.trace.frames import Trace

DESK = Screen(name="desk", size=(1920, 1080))
NARROW = Screen(name="narrow", size=(1080, 1080))
SOFA = Screen(name="sofa", size=(1920, 1080), inches=50, metres=3)
SNOW, CAVE, RUST = (Plate(name=name, picture=f"{name}.png", proportions="cover") for name in ("snow", "cave", "rust"))
WORDS = Widget(
    id="words", kind="label", inputs={"text": "Dive"}, look={"text": "#ffffff"},
    place=Place(offset=(100.0, 100.0), size=(300.0, 60.0)),
)  # fmt: skip
FAR = Widget(
    id="far", kind="label", inputs={"text": "Far"}, look={"text": "#208020", "outline": ""},
    place=Place(offset=(1500.0, 300.0), size=(300.0, 60.0)),
)  # fmt: skip


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    for name, colour in (("snow", "#f8fbff"), ("cave", "#05080a"), ("rust", "#b04010")):
        Image.new("RGB", (1920, 1080), colour).save(tmp_path / f"{name}.png")
    return tmp_path


def listed(folder: Path, *views: View, widgets: tuple[Widget, ...] = (WORDS, FAR)) -> list[set[tuple[str, str]]]:
    project = Project(widgets=widgets, screens=(DESK, NARROW, SOFA), plates=(SNOW, CAVE, RUST))
    bound = bind(project, folder=folder)
    assert not bound.errors
    tracks = [Tracks(bound, Trace.make("dive", [0.0, 1.0], {}))]
    inspector = Inspector(CHECKS)
    inspector.inspect(bound, tracks)
    told = inspector.inspect_views(bound, tracks, views)
    for view, one in zip(views, told, strict=True):
        assert {finding.screen for finding in one} <= {"", view.screen.name}
        assert {finding.plate for finding in one} <= {"", view.plate.name if view.plate else ""}
    return [{(finding.code, finding.widget) for finding in one} for one in told]


def test_white_on_white_is_reported_under_every_screen_that_has_it_and_no_other(folder: Path) -> None:
    shown = listed(folder, *(View(screen, plate) for plate in (SNOW, CAVE) for screen in (DESK, NARROW, SOFA)))
    assert [("low-contrast", "words") in one for one in shown] == [True, True, True, False, False, False]


def test_what_is_off_one_screen_is_reported_of_that_one(folder: Path) -> None:
    shown = listed(folder, View(DESK, CAVE), View(NARROW, CAVE))
    assert [("off-screen", "far") in one for one in shown] == [False, True]


def test_sizes_that_a_player_sets_are_judged_by_themselves(folder: Path) -> None:
    sizes = [
        Screen(name=f"sofa at {scale:.0%}", size=SOFA.size, inches=50, metres=3, scale=scale) for scale in (0.75, 2.0)
    ]
    shown = listed(folder, *(View(size, CAVE) for size in sizes))
    assert [("too-small", "words") in one for one in shown] == [True, False]
    assert [("off-screen", "far") in one for one in shown] == [False, True]


def test_eyes_that_lack_a_colour_see_too_little_where_others_do_not(folder: Path) -> None:
    red = Widget(
        id="red", kind="label", inputs={"text": "Red"}, look={"text": "#a02020", "text_size": 40},
        place=Place(offset=(100.0, 100.0), size=(300.0, 60.0)),
    )  # fmt: skip
    plain, blind = listed(folder, View(DESK, CAVE), View(DESK, CAVE, "no red cones"), widgets=(red,))
    full = ("low-contrast", "red") in plain
    assert (("low-contrast", "red") in blind) >= full
    snow, _ = listed(folder, View(DESK, SNOW), View(DESK, SNOW, "no colour"), widgets=(red,))
    assert ("low-contrast", "red") not in snow


def test_views_are_those_of_all_screens_taken_together(folder: Path) -> None:
    """What is found of all at once is found in one of the views, and the other way round."""
    project = Project(widgets=(WORDS, FAR), screens=(DESK, NARROW, SOFA), plates=(SNOW, CAVE, RUST))
    bound = bind(project, folder=folder)
    tracks = [Tracks(bound, Trace.make("dive", [0.0, 1.0], {}))]
    inspector = Inspector(CHECKS)
    codes = {check.code for check in CHECKS if check.of_views}
    whole = {(one.code, one.widget) for one in inspector.inspect(bound, tracks) if one.code in codes}
    views = [View(screen, plate) for screen in project.screens for plate in project.plates]
    apart = {(one.code, one.widget) for told in inspector.inspect_views(bound, tracks, views) for one in told}
    assert apart == whole


def test_a_screens_own_size_and_one_that_was_chosen_are_judged_apart(folder: Path) -> None:
    """Both may have the screen's name: at its own size it is off the screen, at another it is not."""
    own = Screen(name="sofa", size=SOFA.size, scale=2.0)
    shown = listed(folder, View(own, CAVE), View(SOFA, CAVE), View(own, CAVE))
    assert [("off-screen", "far") in one for one in shown] == [True, False, True]


def test_recordings_that_were_looked_at_twice_are_known_after_others(folder: Path) -> None:
    """As driving by hand goes: each look is at another recording, and then those from before come back."""
    looks: list[str] = []

    def look(case: Case, widget: BoundWidget) -> list[Finding]:
        looks.append(f"{widget.widget.id} {case.tracks[0].trace.name}")
        return []

    bound = bind(Project(widgets=(WORDS,)), folder=folder)
    inspector = Inspector((Check("seen", "hint", "counts", widget=look),))
    traces = {name: Tracks(bound, Trace.make(name, [0.0], {})) for name in ("dive", "driven", "driven on")}
    for name in ("dive", "dive", "driven", "driven on", "dive", "dive"):
        inspector.inspect(bound, [traces[name]])
    assert looks == ["words dive", "words driven", "words driven on"]
