"""The label's track and shapes."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.project.project import WhileMissing
from avrin.trace.frames import Value
from widget_helpers import boxes, drawn, over, project, states, texts

# template, hull, leak, phase -> text
TEXTS: list[tuple[str, Value, Value, Value, str]] = [
    ("Depth {hull | 0.0} m", 31.25, None, None, "Depth 31.2 m"),
    ("Depth {hull | 0.0} m", None, None, None, "Depth — m"),
    ("{hull}", 50.0, None, None, "50"),
    ("{hull}", 0.0, None, None, "0"),
    ("{hull}", -4.0, None, None, "-4"),
    ("{max(hull, 0) | 0, up} left", -4.2, None, None, "0 left"),
    ("{leak}", None, True, None, "yes"),
    ("{leak}", None, False, None, "no"),
    ("{leak}", None, None, None, "—"),
    ("{phase}", None, None, "dive", "dive"),
    ("{upper(phase)}!", None, None, "dive", "DIVE!"),
    ("{phase}", None, None, "", ""),
    ("{if leak then phase else missing}", None, False, "dive", "—"),
]


@pytest.mark.parametrize(("template", "hull", "leak", "phase", "text"), TEXTS)
def test_text_table(template: str, hull: Value, leak: Value, phase: Value, text: str) -> None:
    found = states("label", {"text": template}, hull=[hull, 1.0], leak=[leak, True], phase=[phase, "x"])
    assert found[0]["text"] == text


def test_visibility_counts_missing_as_no() -> None:
    found = states("label", {"text": "x", "visible": "leak"}, leak=[True, None, False])
    assert [s["visible"] for s in found] == [True, False, False]


@pytest.mark.parametrize(("align", "share"), [("left", 0.0), ("center", 0.5), ("right", 1.0)])
def test_the_plate_is_as_wide_as_the_text_and_its_padding(align: str, share: float) -> None:
    shapes = drawn(
        "label", {"text": "Sealed"}, size=(300, 40), look={"align": align, "back": "#000000", "pad": 10}, hull=1.0
    )
    (plate,), (run,) = boxes(shapes), texts(shapes)
    assert plate.width < 120
    assert plate.x == pytest.approx(share * (300 - plate.width))
    assert run.x == pytest.approx(plate.x + 10)


def test_no_text_draws_nothing() -> None:
    assert drawn("label", {"text": ""}, look={"back": "#000000"}, hull=1.0) == ()


def test_what_is_shown_while_it_is_missing_is_chosen() -> None:
    plain = project("label", {"text": "Air {air | 0} of {scrap}"})
    columns: dict[str, list[Value]] = {"air": [7.0, None, 7.0], "scrap": [60.0, 60.0, None]}
    told = {}
    for name, missing in (
        ("plain", WhileMissing()),
        ("text", WhileMissing(text="###")),
        ("none", WhileMissing(text="")),
    ):
        widget = replace(plain.widgets[0], missing=missing)
        bound = bind(plain.with_widget(widget))
        tracks = over(bound, columns)
        told[name] = [tracks.state(bound.widgets["w"], frame)["text"] for frame in range(3)]
    assert told == {
        "plain": ["Air 7 of 60", "Air — of 60", "Air 7 of —"], "text": ["Air 7 of 60", "Air ### of 60", "Air 7 of ###"],
        "none": ["Air 7 of 60", "Air  of 60", "Air 7 of "],
    }  # fmt: skip
    bound = bind(plain.with_widget(replace(plain.widgets[0], missing=WhileMissing(hide=True))))
    tracks = over(bound, columns)
    assert [tracks.state(bound.widgets["w"], frame)["visible"] for frame in range(3)] == [True, False, False]


def test_a_bar_that_hides_while_its_value_is_missing() -> None:
    plain = project("bar", {"value": "hull", "full": "100"})
    bound = bind(plain.with_widget(replace(plain.widgets[0], missing=WhileMissing(hide=True))))
    tracks = over(bound, {"hull": [7.0, None]})
    assert [tracks.state(bound.widgets["w"], frame)["visible"] for frame in range(2)] == [True, False]
