"""Widgets that were only moved keep their bindings; all others are bound again."""

from __future__ import annotations

from pathlib import Path

from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.project.project import Follow, Place, Project
from avrin.storage.files import load
from avrin.trace.store import open_trace


def placed_elsewhere(project: Project) -> Project:
    """Every widget a little further right, and larger."""

    def elsewhere(place: Place) -> Place:
        (x, y), (wide, high) = place.offset, place.size
        return replace(place, offset=(x + 5, y - 7), size=(wide + 3, high * 2))

    return replace(project, widgets=tuple(replace(one, place=elsewhere(one.place)) for one in project.widgets))


def test_what_was_moved_shows_what_it_would_if_it_were_bound_anew(demo: Path) -> None:
    project, _ = load(demo)
    trace = open_trace(demo.parent / project.traces[0].path)
    events = trace.event_kinds
    before = bind(project, events=events, folder=demo.parent)
    after = placed_elsewhere(project)
    quick, anew = bind(after, before, events, demo.parent), bind(after, events=events, folder=demo.parent)
    assert quick.errors == anew.errors
    assert list(quick.widgets) == list(anew.widgets)
    short, long = Tracks(quick, trace), Tracks(anew, trace)
    for ident, widget in quick.widgets.items():
        assert widget.widget is after.widget(ident)
        for copy, other in zip(widget.each(), anew.widgets[ident].each(), strict=True):
            assert copy.widget is after.widget(ident)
            assert short.state(copy, 7000) == long.state(other, 7000)
            assert all(step in before.widgets[ident].columns.values() for step in widget.columns.values())


def test_what_follows_something_else_is_bound_anew(demo: Path) -> None:
    project, _ = load(demo)
    before = bind(project)
    hull = project.widget("hull_bar")
    follows = replace(hull, place=replace(hull.place, follow=Follow(x="hull", y="0")))
    after = bind(project.with_widget(follows), before)
    assert "follow_x" not in before.widgets["hull_bar"].drawn
    assert {"follow_x", "follow_y"} <= set(after.widgets["hull_bar"].drawn)


def test_prompts_look_at_one_another_again_when_one_is_another(demo: Path) -> None:
    project, _ = load(demo)
    before = bind(project)
    leak = project.widget("leak_warning")
    moved = project.with_widget(replace(leak, place=replace(leak.place, offset=(1, 2))))
    assert bind(moved, before).widgets["air_warning"] is before.widgets["air_warning"]
    never = project.with_widget(replace(leak, inputs={**leak.inputs, "when": "false"}))
    assert bind(never, before).widgets["air_warning"] is not before.widgets["air_warning"]
