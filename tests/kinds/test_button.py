"""The button: whether it can be pressed, how it looks then, and what a press would set."""

from __future__ import annotations

import pytest

from avrin.binding.binding import bind
from avrin.kinds.button import ButtonLook, Options
from avrin.kinds.kind import Drawing
from avrin.kinds.registry import KINDS
from avrin.kinds.shapes import Box, TextRun
from avrin.render.fonts import TextMeasure
from avrin.trace.frames import Value
from widget_helpers import over, project, states

ENABLED: list[tuple[str, Value, bool]] = [
    ("true", 1.0, True), ("false", 1.0, False), ("hull >= 5", 5.0, True), ("hull >= 5", 4.9, False),
    ("hull >= 5", None, False), ("missing", 1.0, False), ("not (hull >= 5)", None, False), ("has(hull)", 0.0, True),
    ("hull == 3", 3.0, True), ("hull != 3", 3.0, False), ("hull in 1..3", 0.9, False), ("hull in 1..3", 1.0, True),
]  # fmt: skip


@pytest.mark.parametrize(("rule", "hull", "enabled"), ENABLED)
def test_enabled_table(rule: str, hull: Value, enabled: bool) -> None:
    assert states("button", {"enabled": rule}, hull=[hull])[0]["enabled"] is enabled


@pytest.mark.parametrize(
    ("enabled", "hot", "back"),
    [(True, "", "#1e6b68"), (True, "hover", "#2a8480"), (True, "held", "#155451"), (False, "", "#40505460"),
     (False, "hover", "#40505460")],
)  # fmt: skip
def test_its_plate_tells_its_state(enabled: bool, hot: str, back: str) -> None:
    state: dict[str, Value] = {"enabled": enabled, "label": "Patch"}
    drawing = Drawing(state, 200, 60, Options(key="P"), ButtonLook(), TextMeasure(), "—", hot=hot)
    plate, cap, key, label = KINDS["button"].shapes(drawing)
    assert isinstance(plate, Box)
    assert (plate.fill, plate.width, plate.height) == (back, 200, 60)
    assert isinstance(key, TextRun)
    assert isinstance(label, TextRun)
    assert (key.text, label.text) == ("P", "Patch")
    assert isinstance(cap, Box)
    assert cap.x < key.x < cap.x + cap.width < label.x
    left = cap.x
    right = 200 - (label.x + TextMeasure().width("Patch", 28, True))
    assert left == pytest.approx(right, abs=0.01)  # key and label are centred together


def test_what_a_press_sets_is_checked_and_worked_out() -> None:
    does = [{"set": "hull", "to": "min(hull + 30, 100)"}, {"set": "scrap", "to": "scrap - 5"}]
    bound = bind(project("button", {}, {"does": does}))
    bound.raise_first()
    state = over(bound, {"hull": [80.0], "scrap": [12.0]}).state(bound.widgets["w"], 0)
    assert (state["press.hull"], state["press.scrap"]) == (100, 7)
    wrong = bind(project("button", {}, {"does": [{"set": "hul", "to": "1"}, {"set": "hull", "to": "phase"}]}))
    told = {place.name: str(error) for place, error in wrong.errors.items()}
    assert told["does.0.set"].startswith("no variable 'hul' to set")
    assert "expected a number, but this is a text" in told["does.1.to"]
