"""A widget of another kind: by hand what it keeps, for every pair of kinds that nothing in it is wrong, and what is lost."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.edits.kinds import kind_changed, kind_losses
from avrin.errors import AvrinError
from avrin.kinds.registry import KINDS
from avrin.project.project import Band, Place, Project, Variable, Widget
from avrin.trace.frames import Column, Trace

HULL = Variable(name="hull", type="float", low=0, high=140)
SHIP = Project(variables=(HULL, Variable(name="scrap", type="int"), Variable(name="leak", type="bool")))
PLACE = Place(offset=(1, 2), size=(300, 50))
BAR = Widget(
    id="w", own_title="Ship", kind="bar", place=PLACE, bands=(Band(name="low", below="30%", back="40%"),),
    inputs={"value": "hull", "full": "140", "caption": "HULL", "visible": "leak"},
    look={"bands": {"low": {"fill": "#ff0000"}}}, options={"segments": 4},
)  # fmt: skip
COUNTER = Widget(
    id="w", kind="counter", place=PLACE, inputs={"value": "scrap", "caption": "scrap"}, options={"pattern": "#,##0"},
    bands=(Band(name="rich", above="200"),),
)  # fmt: skip
LABEL = Widget(id="w", kind="label", place=PLACE, inputs={"text": "Hull {hull | 0} pt"})


def built(widget: Widget, kind: str) -> Widget:
    project = kind_changed(replace(SHIP, widgets=(widget,)), "w", kind)
    bind(project).raise_first()
    found = project.widget("w")
    assert (found.place, found.own_title) == (widget.place, widget.own_title)
    return found


TABLE = [
    # from, to: inputs, bands, options
    (BAR, "ring", BAR.inputs, BAR.bands, {"segments": 4}),
    (BAR, "counter", {"value": "hull", "caption": "HULL", "visible": "leak"}, (Band(name="low", below="42", back="56"),), {}),
    (BAR, "label", {"text": "HULL {hull}", "visible": "leak"},
     (Band(name="low", when="latch(hull < 42, hull >= 56)"),), {}),
    (COUNTER, "bar", {"value": "scrap", "full": "100", "caption": "scrap"}, (Band(name="rich", above="200%"),), {}),
    (COUNTER, "label", {"text": "scrap {scrap | #,##0}"}, (Band(name="rich", when="scrap > 200"),), {}),
    (COUNTER, "timer", COUNTER.inputs, COUNTER.bands, None),
    (LABEL, "counter", {"value": "hull", "caption": "Hull pt"}, (), {"pattern": "0"}),
    (LABEL, "bar", {"value": "hull", "full": "140", "caption": "Hull pt"}, (), {}),
    (replace(BAR, inputs={**BAR.inputs, "full": "scrap"}), "counter",
     {"value": "hull", "caption": "HULL", "visible": "leak"},
     (Band(name="low", below="(30%) * (scrap)", back="(40%) * (scrap)"),), {}),
]  # fmt: skip


@pytest.mark.parametrize(("widget", "kind", "inputs", "bands", "options"), TABLE)
def test_it_keeps_what_it_is_about(
    widget: Widget, kind: str, inputs: dict[str, str], bands: tuple[Band, ...], options: dict[str, object] | None
) -> None:
    found = built(widget, kind)
    assert (found.inputs, found.bands) == (inputs, bands)
    if options is not None:
        assert found.options == options
    if widget is BAR and kind != "label":
        assert found.look.get("bands", {}).keys() == {"low"}


@pytest.mark.parametrize("kind", ["ring", "pips", "counter", "label"])
def test_its_bands_come_at_the_same_values(kind: str) -> None:
    trace = Trace.make("t", [float(i) for i in range(8)], {
        "hull": Column.of([140.0, 60.0, 50.0, 41.0, 50.0, 56.0, 50.0, 10.0]), "leak": Column.of([True] * 8),
    })  # fmt: skip
    told = []
    for widget in (BAR, built(BAR, kind)):
        tracks = Tracks(bind(replace(SHIP, widgets=(widget,))), trace)
        told.append([tracks.state(tracks.bound.widgets["w"], frame)["band"] for frame in range(8)])
    assert told[0] == told[1] == ["", "", "", "low", "low", "", "", "low"]


def test_what_another_kind_does_not_have_is_named() -> None:
    assert kind_losses(BAR, built(BAR, "counter")) == ["full", "segments"]
    assert kind_losses(BAR, built(BAR, "ring")) == []
    assert kind_losses(LABEL, built(LABEL, "counter")) == []
    assert kind_losses(COUNTER, built(COUNTER, "panel")) == ["value", "caption", "pattern"]


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_any_kind_becomes_any_other_and_says_no_option_wrong(kind: str) -> None:
    for other in KINDS:
        project = replace(SHIP, widgets=(BAR,))
        found = kind_changed(kind_changed(project, "w", kind), "w", other)
        widget = found.widget("w")
        kept = {("look", name) for name in widget.look} | {("options", name) for name in widget.options}
        assert [at for at in bind(found).errors if (at.part, at.name.split(".")[0]) in kept or at.part == "kind"] == []
        assert set(widget.inputs) <= {one.name for one in KINDS[other].all_inputs()}


def test_there_is_no_such_kind() -> None:
    with pytest.raises(AvrinError, match="did you mean 'ring'"):
        kind_changed(replace(SHIP, widgets=(BAR,)), "w", "rings")
