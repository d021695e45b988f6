"""Places of rules in words: by ids for errors in the file, by titles for findings and undo steps. Worked out by hand."""

from __future__ import annotations

import pytest

from avrin.binding.places import RulePlace, place_title, place_words, titled_words
from avrin.project.project import Project, Widget

PROJECT = Project(widgets=(Widget(id="hull_bar", kind="bar"), Widget(id="w2", kind="label", own_title="Depth")))
TABLE = [
    (RulePlace("widget", "hull_bar", "inputs", "value"), "widget 'hull_bar', input 'value'", "Hull bar, input 'value'",
     "Hull bar value"),
    (RulePlace("widget", "w2", "bands", "deep", "when"), "widget 'w2', band 'deep', when",
     "Depth, band 'deep', when", "Depth deep"),
    (RulePlace("widget", "w2", "bands", "deep"), "widget 'w2', band 'deep'", "Depth, band 'deep'", "Depth deep"),
    (RulePlace("widget", "w2", "follow", "x"), "widget 'w2', follow, x", "Depth, follow, x", "Depth x"),
    (RulePlace("widget", "w2", "options", "does.1.set"), "widget 'w2'", "Depth", "Depth"),
    (RulePlace("widget", "w2", "pop", "when"), "widget 'w2', pop, when", "Depth, pop, when", "Depth"),
    (RulePlace("widget", "w2", "kind"), "widget 'w2', kind", "Depth, kind", "Depth"),
    (RulePlace("derived", "diving"), "derived value 'diving'", "Derived value 'diving'", "diving"),
    (RulePlace("plate", "reef", "zones", "0", "x"), "plate 'reef', zone 1, x", "Plate 'reef', zone 1, x", "reef"),
    (RulePlace("action", "Patch", "does", "1"), "action 'Patch', change 2", "Action 'Patch', change 2", "Patch"),
    (RulePlace("group", "dive", "visible"), "group 'dive', visible", "Group 'dive', visible", "dive"),
    (RulePlace("project", "device"), "project, device", "Project, device", "device"),
]  # fmt: skip


@pytest.mark.parametrize(("place", "words", "titled", "title"), TABLE)
def test_a_place_in_words(place: RulePlace, words: str, titled: str, title: str) -> None:
    assert ", ".join(place_words(place)) == words
    assert ", ".join(titled_words(PROJECT, place)) == titled
    assert place_title(PROJECT, place) == title
