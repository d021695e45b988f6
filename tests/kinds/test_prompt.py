"""The prompt: against a frame-by-frame reading of its rules, and by tables worked by hand."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.declarations import rename
from avrin.binding.places import RulePlace
from avrin.binding.tracks import Tracks
from avrin.kinds.kind import Drawing
from avrin.kinds.prompt import Options, PromptLook
from avrin.kinds.registry import KINDS
from avrin.kinds.shapes import Box, Group, TextRun
from avrin.project.project import Place, Widget
from avrin.render.fonts import TextMeasure
from avrin.rules.scan import evaluate
from avrin.trace.frames import Column, Trace
from strategies import identical
from widget_helpers import over, project

YES, NO = True, False
# when and until, one frame a second; options -> the seconds at which it shows
TABLE: list[tuple[str, str, dict[str, Any], str]] = [
    ("0111100000", "0000000000", {"at_least": 0}, "0111100000"),
    ("0111100000", "0000000000", {"at_least": 0, "after": 2}, "0001100000"),
    ("0111000000", "0000000000", {"at_least": 0, "after": 3}, "0000000000"),
    ("0100000000", "0000000000", {"at_least": 4}, "0111100000"),
    ("0100000000", "0010000000", {"at_least": 4}, "0100000000"),
    ("0111111111", "0001000000", {"at_least": 0}, "0110000000"),
    ("0111011100", "0010000000", {"at_least": 0}, "0100011100"),
    ("0111011100", "0010000000", {"at_least": 0, "again": "once"}, "0100000000"),
    ("0101010101", "0000000000", {"at_least": 0, "rest": 3}, "0100010001"),
    ("0111111111", "0000000000", {"at_least": 0, "rest": 3}, "0111111111"),
    ("0110111111", "0000000000", {"at_least": 0, "rest": 4}, "0110000111"),
    ("0111100000", "1000000000", {"at_least": 0}, "0000000000"),
    ("0110011000", "1000000000", {"at_least": 0}, "0000011000"),
    ("?11?110000", "0000000000", {"at_least": 0, "after": 1}, "0010010000"),
]


def flags(text: str) -> Column:
    return Column.of([{"1": True, "0": False, "?": None}[c] for c in text])


@pytest.mark.parametrize(("when", "until", "options", "shown"), TABLE)
def test_when_it_shows_table(when: str, until: str, options: dict[str, Any], shown: str) -> None:
    inputs = {"when": "leak", "until": 'phase == "1"', "text": "Seal"}
    bound = bind(project("prompt", inputs, options))
    bound.raise_first()
    columns = {"leak": flags(when), "phase": Column.of(list(until))}
    tracks = Tracks(bound, Trace.make("t", [float(i) for i in range(len(when))], columns))
    found = [tracks.state(bound.widgets["w"], frame)["visible"] for frame in range(len(when))]
    assert "".join("1" if v else "0" for v in found) == shown


class Plain:
    """The design's sentences, one frame after another."""

    def __init__(self, rules: list[Options]) -> None:
        self.rules = rules
        self.shown, self.since = -1, -math.inf
        self.done = [False] * len(rules)
        self.gone = [-math.inf] * len(rules)
        self.before = [False] * len(rules)
        self.began: list[float | None] = [None] * len(rules)

    def frame(self, t: float, when: list[bool], until: list[bool]) -> int:
        able = []
        wants = []
        for i, rule in enumerate(self.rules):
            if not when[i]:
                self.began[i] = None
            elif self.began[i] is None:
                self.began[i] = t
            began = self.began[i]
            wants.append(began is not None and t - began >= rule.after)
            if self.before[i] and not when[i] and rule.again == "each":
                self.done[i] = False
            self.done[i] = self.done[i] or until[i]
            if wants[i] and not self.done[i] and t - self.gone[i] >= rule.rest:
                able.append((rule.order, i))
        self.before = list(when)
        now = self.shown
        if now >= 0:
            stays = t - self.since < self.rules[now].at_least
            gives_way = any(other < (self.rules[now].order, now) for other in able)
            if self.done[now] or (not stays and (not wants[now] or gives_way)):
                self.gone[now], self.shown = t, -1
        if self.shown < 0:
            able = [(order, i) for order, i in able if t - self.gone[i] >= self.rules[i].rest]
            if able:
                self.shown, self.since = min(able)[1], t
        return self.shown


OPTIONS = st.fixed_dictionaries(
    {
        "after": st.sampled_from([0, 0.5, 2]), "at_least": st.sampled_from([0, 0.25, 1.5]),
        "rest": st.sampled_from([0, 0.25, 1]), "again": st.sampled_from(["once", "each"]), "queue": st.just("q"),
        "order": st.sampled_from([0, 1]),
    }
)  # fmt: skip


@given(st.lists(OPTIONS, min_size=1, max_size=3), st.data())
def test_a_queue_is_what_its_rules_say_frame_by_frame(options: list[dict[str, Any]], data: st.DataObject) -> None:
    count = data.draw(st.integers(1, 25))
    steps = data.draw(st.lists(st.sampled_from([0.0, 0.25, 0.5, 1.0]), min_size=count, max_size=count))
    t = [sum(steps[: i + 1]) for i in range(count)]
    bits = st.lists(st.booleans(), min_size=count, max_size=count)
    when, until = ([data.draw(bits) for _ in options] for _ in range(2))
    base = project("prompt", {})
    widgets = tuple(
        Widget(id=f"p{i}", kind="prompt", options=one, place=Place(size=(100.0, 20.0)),
               inputs={"when": f"w{i}", "until": f"u{i}", "text": "x"})
        for i, one in enumerate(options)
    )  # fmt: skip
    names = [f"{kind}{i}" for i in range(len(options)) for kind in "wu"]
    variables = tuple(replace(base.variables[3], name=name) for name in names)
    bound = bind(replace(base, variables=variables, widgets=widgets))
    bound.raise_first()
    columns = {f"w{i}": Column.of(list(values)) for i, values in enumerate(when)}
    columns |= {f"u{i}": Column.of(list(values)) for i, values in enumerate(until)}
    trace = Trace.make("t", t, columns)
    tracks = Tracks(bound, trace)
    plain = Plain([widget.options for widget in bound.widgets.values()])
    for frame in range(count):
        expected = plain.frame(t[frame], [w[frame] for w in when], [u[frame] for u in until])
        shown = [i for i, w in enumerate(bound.widgets.values()) if tracks.state(w, frame)["visible"]]
        assert shown == ([expected] if expected >= 0 else [])
    steps_ = [widget.columns["visible"] for widget in bound.widgets.values()]
    whole = evaluate(steps_, trace, bound.graph)
    for a, b in zip(whole, evaluate(steps_, trace, bound.graph, chunk=data.draw(st.integers(1, 5))), strict=True):
        assert identical(a, b)


def test_the_key_is_the_devices_and_its_ring_spreads() -> None:
    options = Options(keys={"keyboard": "F", "pad": "Y"}, pulse=2.0)

    def shapes(device: str | None, clock: float) -> tuple[object, ...]:
        state = {"text": "Seal the leak", "device": device}
        return KINDS["prompt"].shapes(Drawing(state, 400, 60, options, PromptLook(), TextMeasure(), "—", clock))

    for device, key in (("keyboard", "F"), ("pad", "Y"), (None, "F"), ("wheel", "F")):
        assert [s.text for s in shapes(device, 1.5) if isinstance(s, TextRun)] == [key, "Seal the leak"]
    plate = shapes(None, 1.5)[0]
    assert isinstance(plate, Box)
    assert plate.x == pytest.approx(400 - plate.x - plate.width)  # in the middle of its place
    rings = [
        next((s.opacity for s in shapes(None, clock) if isinstance(s, Group)), None) for clock in (0.0, 0.45, 1.5, 2.0)
    ]
    assert rings == [1.0, pytest.approx(0.5), None, 1.0]


def test_the_projects_device_chooses_the_keys_of_prompts_that_say_none_of_their_own() -> None:
    made = replace(project("prompt", {"when": "true", "text": "x"}), device="phase")
    own = replace(made.widgets[0], id="own", inputs={**made.widgets[0].inputs, "device": '"pad"'})
    bound = bind(replace(made, widgets=(*made.widgets, own)))
    bound.raise_first()
    tracks = over(bound, {"phase": ["keyboard", "touch"]})
    told = [[tracks.state(bound.widgets[w], frame)["device"] for frame in (0, 1)] for w in ("w", "own")]
    assert told == [["keyboard", "touch"], ["pad", "pad"]]
    again = bind(replace(bound.project, device='"wheel"'), bound)
    assert over(again, {"phase": ["x"]}).state(again.widgets["w"], 0)["device"] == "wheel"
    wrong = bind(replace(made, device="phases"))
    assert list(wrong.errors) == [RulePlace("project", "device")]
    assert rename(bound.project, "phase", "stage").device == "stage"
