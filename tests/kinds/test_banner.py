"""The banner: over everything while its condition holds."""

from __future__ import annotations

import pytest

from avrin.kinds.banner import BannerLook, Options
from avrin.kinds.kind import Drawing
from avrin.kinds.registry import KINDS
from avrin.kinds.shapes import Box
from avrin.render.fonts import TextMeasure
from avrin.trace.frames import Value
from widget_helpers import states

# when, visible -> whether it shows
SHOWN: list[tuple[Value, str, bool]] = [
    (True, "true", True), (False, "true", False), (None, "true", False), (True, "false", False),
    (True, "hull > 3", True), (False, "hull > 3", False), (True, "hull > 30", False), (True, "missing", False),
    (None, "missing", False), (True, "not leak", False), (False, "not leak", False), (True, "leak", True),
]  # fmt: skip


@pytest.mark.parametrize(("when", "visible", "shown"), SHOWN)
def test_it_shows_while_both_conditions_hold(when: Value, visible: str, shown: bool) -> None:
    inputs = {"when": "leak", "title": "Lost at {hull | 0}", "visible": visible}
    state = states("banner", inputs, leak=[when], hull=[7.0])[0]
    assert state["visible"] is shown
    assert state["title"] == "Lost at 7"


def test_it_dims_the_whole_screen_and_centres_its_texts() -> None:
    state = {"title": "Lost", "note": "again?"}
    look = BannerLook(text_size=50, note_size=20, back="#101010", radius=4)
    drawing = Drawing(state, 400, 200, Options(dim=0.4), look, TextMeasure(), "—", screen=(-100, -50, 1920, 1080))
    dim, plate, title, note = KINDS["banner"].shapes(drawing)
    assert dim == Box(-100, -50, 1920, 1080, "#00000066")
    assert plate == Box(0, 0, 400, 200, "#101010", 4)
    assert (title.x, title.text, note.x, note.text) == (200, "Lost", 200, "again?")  # type: ignore[union-attr]
    assert note.y == pytest.approx(title.y + 30)  # type: ignore[union-attr]
    alone = Drawing({"title": "x", "note": ""}, 400, 200, Options(dim=0.4), BannerLook(), TextMeasure(), "—")
    assert len(KINDS["banner"].shapes(alone)) == 1
