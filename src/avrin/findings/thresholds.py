"""Thresholds and targets: skipped, never reached or always reached; bands that hide one another or leave a gap."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator
from functools import partial

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from avrin.binding.bound import BoundWidget
from avrin.binding.places import RulePlace, is_template, rule_at, rule_places, titled_words
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.findings.case import Case, direct_source
from avrin.findings.finding import Check, Finding
from avrin.findings.fixes import fix_rule, fix_widget
from avrin.kinds.states import STATE_WORDS
from avrin.project.numbers import plain_number
from avrin.project.project import Band, Widget
from avrin.rules import nodes as n
from avrin.rules.operators import ORDER
from avrin.rules.parse import parse
from avrin.rules.steps import Step
from avrin.rules.template import split_template
from avrin.trace.frames import Array

__all__ = ["CHECKS"]

NARROW = 0.05  # of the span of two limits: a smaller interval between them is no band of its own


# -- equality ----------------------------------------------------------------------------------------------------------


class _Test(Struct, frozen=True):
    """An equality test with a constant. at: where its rule starts at its place; sign: position of the operator in the rule."""

    place: RulePlace
    at: int
    sign: int
    compared: str
    target: float


def _leapt_over(case: Case) -> Iterator[Finding]:
    tests = list(_tests(case))
    targets: dict[str, set[float]] = {}
    for test in tests:
        targets.setdefault(test.compared, set()).add(test.target)
    for test in tests:
        yield from _leap(case, test, targets[test.compared])


def _tests(case: Case) -> Iterator[_Test]:
    for place in rule_places(case.project):
        if place in case.bound.errors:
            continue
        for at, text in _rules(case, place):
            for node, target, sign in _equalities(text):
                yield _Test(place, at, sign, text[node.span[0] : node.span[1]], target)


def _rules(case: Case, place: RulePlace) -> list[tuple[int, str]]:
    """Return the rules at a place, each with its start: a template has several."""
    text = rule_at(case.project, place)
    if "==" not in text:
        return []
    if is_template(case.project, place):
        return [(piece.at, piece.rule) for piece in split_template(text) if piece.rule is not None]
    return [(0, text)]


def _equalities(text: str) -> Iterator[tuple[n.Node, float, int]]:
    """Yield what is compared with a constant, the constant, and the position of the operator."""
    waiting: list[n.Node] = [parse(text)]
    while waiting:
        node = waiting.pop()
        waiting.extend(n.children(node))
        if isinstance(node, n.Comparison) and len(node.rest) == 1 and node.rest[0][0] == "==":
            left, right = node.first, node.rest[0][1]
            if isinstance(right, n.Number):
                yield left, right.value, text.index("==", left.span[1])
            elif isinstance(left, n.Number):
                yield right, left.value, text.index("==", left.span[1])


def _leap(case: Case, test: _Test, targets: set[float]) -> Iterator[Finding]:
    """targets: all constants the value is tested for; a jump between two of them is a change of state."""
    place, compared, target = test.place, test.compared, test.target
    try:
        with case.scope.at_slot(0):
            step = case.scope.rule(compared, "number")
    except AvrinError:
        return  # it is inside a rule with names only this place has
    for tracks in case.tracks:
        values = case.numbers(tracks, step)
        frame = _leap_frame(values, target, tracks.trace.run, np.array(sorted(targets)))
        if frame is None:
            continue
        falls = values[frame] < target  # an equality test means "has reached it", from the side the value came from
        better = "<=" if falls else ">="
        whole = rule_at(case.project, place)
        sign = test.at + test.sign
        mended = whole[:sign] + better + whole[sign + 2 :]
        where = ", ".join(titled_words(case.project, place))
        yield Finding(
            place.widget, "== skipped",
            f"{where}: {compared} goes from {plain_number(values[frame - 1])}"
            f" to {plain_number(values[frame])}, past {plain_number(target)}, and never equals it",
            f"Compare with {better}", about=f"{place.within}: {compared} == {target:g}", trace=tracks.trace.name,
            start=frame, end=frame + 1,
            input=place.input, variable=direct_source(step),
            fix=fix_rule(f"write {better}", place, mended),
        )  # fmt: skip
        return


def _leap_frame(values: Array, target: float, runs: Array, states: Array) -> int | None:
    """Return the first frame of a run at which values have skipped the target.

    states: values between which nothing can be skipped.
    """
    with np.errstate(invalid="ignore"):
        side = np.sign(values - target)
        leapt = (side[1:] * side[:-1] < 0) & (runs[1:] == runs[:-1])
    if leapt.any():
        known = np.isin(values, states)
        leapt &= ~(known[1:] & known[:-1])
    found = np.flatnonzero(leapt)
    return int(found[0]) + 1 if len(found) else None


# -- conditions --------------------------------------------------------------------------------------------------------


def _flags(widget: BoundWidget) -> Iterator[tuple[str, Step]]:
    for info in widget.kind.all_inputs():
        step = widget.inputs.get(info.name)
        if info.kind == "flag" and step is not None and step.constant is None:
            yield info.name, step


def _never_true(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    for name, step in _flags(widget):
        if case.tracks and not any((case.column(t, step).data > 1).any() for t in case.tracks):
            miss = _nearest(case, step)
            out_of_reach = miss is not None and miss.out_of_reach
            yield Finding(
                widget.widget.id, f"{name} never true",
                f"{widget.widget.title}: {name} ({widget.widget.inputs.get(name, '')}) is true in no recording"
                + (miss.words if miss is not None else ""),
                "Lower the limit, or declare how far the value goes" if out_of_reach else
                "Record play that reaches it, or look at it in the ladder", about=name, input=name,
                variable=next(iter(step.sources()), ""), weight=miss.near if miss is not None else 0.0,
                trace=miss.trace if miss is not None else "", start=miss.frame if miss is not None else None,
                end=miss.frame + 1 if miss is not None else None,
            )  # fmt: skip


def _always_true(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    for name, step in _flags(widget):
        if case.tracks and all((case.column(t, step).data > 1).all() for t in case.tracks):
            yield Finding(
                widget.widget.id, f"{name} always true",
                f"{widget.widget.title}: {name} ({widget.widget.inputs.get(name, '')}) is true at every frame recorded",
                "Remove the condition, or record play in which it is false", about=name, input=name,
                variable=next(iter(step.sources()), ""),
            )  # fmt: skip


class _Miss(Struct, frozen=True):
    """The nearest approach to a target. near: larger is nearer. frame: of the trace."""

    words: str
    near: float
    out_of_reach: bool
    trace: str
    frame: int


def _nearest(case: Case, step: Step) -> _Miss | None:
    """Return how near the recordings came to a target; None if the condition is no comparison with one."""
    if step.op not in (ORDER[">="], ORDER[">"], ORDER["<="], ORDER["<"]):
        return None
    value, limit = step.args
    upwards = step.op in (ORDER[">="], ORDER[">"])
    seen = [(case.numbers(t, value), t.trace.name) for t in case.tracks]
    known = [(values, name) for values, name in seen if not np.isnan(values).all()]
    goal = np.concatenate([case.numbers(t, limit) for t in case.tracks])
    if not known or np.isnan(goal).all():
        return None
    word, extreme, at = ("most", np.nanmax, np.nanargmax) if upwards else ("least", np.nanmin, np.nanargmin)
    values, name = (max if upwards else min)(known, key=lambda item: float(extreme(item[0])))
    best, end = float(extreme(values)), float(np.nanmin(goal) if upwards else np.nanmax(goal))
    variable = case.project.all_variables().get(direct_source(value))
    edge = None if variable is None else variable.high if upwards else variable.low
    never = edge is not None and (edge < end if upwards else edge > end)
    beyond = (
        f", and its declared range ends at {plain_number(edge)}, so it cannot happen"
        if edge is not None and never
        else ""
    )
    words = f"; the {word} any of them reaches is {plain_number(best)} of {plain_number(end)}{beyond}"
    return _Miss(words, best if upwards else -best, never, name, int(at(values)))


# -- bands -------------------------------------------------------------------------------------------------------------


def _never_reached(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    """Yield a band that is never entered while its widget is visible, so its look was never seen."""
    for band in widget.widget.bands:
        if not case.tracks or any(_shows(case, tracks, widget, band.name) for tracks in case.tracks):
            continue
        limit = band.below or band.above or band.when
        value = widget.inputs.get("value")
        yield Finding(
            widget.widget.id, f"never {band.name}",
            f"{widget.widget.title} is never {band.name} ({limit}) in any recording",
            "Record play that reaches it, or look at it in the ladder", about=band.name,
            variable=next(iter(value.sources()), "") if value is not None else "",
        )  # fmt: skip


def _shows(case: Case, tracks: Tracks, widget: BoundWidget, band: str) -> bool:
    column = case.column(tracks, widget.columns["band"])
    # A band entered while the widget is hidden was not seen.
    if band not in column.words:
        return False
    return bool((case.visible(tracks, widget) & (column.data == column.words.index(band))).any())


def _limits(case: Case, widget: BoundWidget, band: Band) -> Array | None:
    """Return a band's limit over all recordings, or a single value if it is constant."""
    step = widget.thresholds[band.name].limit
    if step is None:
        return None
    if step.constant is not None:
        return step.constant
    return np.concatenate([case.numbers(t, step) for t in case.tracks]) if case.tracks else None


def _hidden_band(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    """Yield bands hidden by an earlier one: the first match wins, so a wider earlier band hides a narrower one."""
    known = _Wider()
    for later in widget.widget.bands:
        limit = _limits(case, widget, later)
        earlier = known.before(later, limit)
        if earlier is not None:
            yield Finding(
                widget.widget.id, f"{later.name} hidden",
                f"{widget.widget.title} is never {later.name}: {earlier.name} comes first and matches all of it",
                f"Put {later.name} before {earlier.name}", about=later.name,
                fix=fix_widget(f"put {later.name} first", widget.widget.id,
                               partial(_with_before, name=later.name, other=earlier.name)),
            )  # fmt: skip
        known.add(later, limit)


class _Wider:
    """Earlier bands that may hide a later one; of those with constant limits only ever wider ones."""

    def __init__(self) -> None:
        self._always: Band | None = None
        self._fixed: dict[tuple[bool, bool], tuple[list[float], list[Band]]] = {}  # by side: widths, ascending
        self._running: dict[tuple[bool, bool], list[tuple[Band, Array]]] = {}  # variable limits, by frame

    def add(self, band: Band, limit: Array | None) -> None:
        if self._always is None and band.when.strip() == "true":
            self._always = band
        if limit is None:
            return
        side = _side(band)
        if len(limit) != 1:
            self._running.setdefault(side, []).append((band, limit))
            return
        wide, bands = self._fixed.setdefault(side, ([], []))
        reach = _reach(band, limit)
        if not np.isnan(reach) and (not wide or reach > wide[-1]):
            wide.append(reach)
            bands.append(band)

    def before(self, band: Band, limit: Array | None) -> Band | None:
        """Return the first earlier band that hides a band, or None."""
        if self._always is not None or limit is None:
            return self._always
        side = _side(band)
        wide, bands = self._fixed.get(side, ([], []))
        with np.errstate(invalid="ignore"):
            reach = float(np.max(_reaches(band, limit))) if len(limit) else np.nan
            at = bisect_left(wide, reach) if not np.isnan(reach) else len(wide)
            if at < len(wide):
                return bands[at]
            for earlier, running in self._running.get(side, []):
                # Variable limits can only be compared frame by frame; a constant one compares with any.
                fits = len(running) == len(limit) or 1 in (len(running), len(limit))
                if fits and bool((_reaches(earlier, running) >= _reaches(band, limit)).all()):
                    return earlier
        return None


def _side(band: Band) -> tuple[bool, bool]:
    return bool(band.below), bool(band.above)


def _reaches(band: Band, limit: Array) -> Array:
    """Return the extent of a band; a larger one covers more."""
    return limit if band.below else -limit


def _reach(band: Band, limit: Array) -> float:
    return float(_reaches(band, limit)[0])


def _with_before(widget: Widget, name: str, other: str) -> Widget:
    moved = next(band for band in widget.bands if band.name == name)
    rest = [band for band in widget.bands if band.name != name]
    at = next(i for i, band in enumerate(rest) if band.name == other)
    return replace(widget, bands=(*rest[:at], moved, *rest[at:]))


def _called_hidden(_case: Case, widget: BoundWidget) -> Iterator[Finding]:
    title = widget.widget.title
    for band in widget.widget.bands:
        if band.name in STATE_WORDS:
            yield Finding(
                widget.widget.id, f"a band called {band.name}",
                f"{title} has a band called {band.name}, like the built-in state of that name",
                "Rename the band", about=band.name,
            )  # fmt: skip


def _band_gap(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    bands = widget.widget.bands
    for low in (band for band in bands if band.below):
        for high in (band for band in bands if band.above):
            under, over = _limits(case, widget, low), _limits(case, widget, high)
            if under is None or over is None or len(under) != 1 or len(over) != 1:
                continue
            gap, span = float(over[0] - under[0]), max(abs(float(over[0])), abs(float(under[0])))
            if 0 <= gap <= NARROW * span:
                between = (
                    f"at {plain_number(under[0])}"
                    if gap == 0
                    else f"between {plain_number(under[0])} and {plain_number(over[0])}"
                )
                yield Finding(
                    widget.widget.id, f"a gap {between}",
                    f"{widget.widget.title} is neither {low.name} nor {high.name} {between}",
                    f"Put {high.name} last, with `when` true, so that it covers the rest",
                    about=f"{low.name} {high.name}",
                    fix=fix_widget(f"make {high.name} the rest", widget.widget.id, partial(_with_rest, name=high.name)),
                )  # fmt: skip


def _with_rest(widget: Widget, name: str) -> Widget:
    rest = [band for band in widget.bands if band.name != name]
    return replace(widget, bands=(*rest, Band(name=name, when="true")))


CHECKS = (
    Check("leapt-over", "warning", "An equality is tested on a value that skips it.", project=_leapt_over),
    Check(
        "never-true",
        "hint",
        "A condition is true in no recording; reports the nearest values.",
        widget=_never_true,
        everywhere=True,
        follows=(("leapt-over", "input"), ("not-recorded", "variable"), ("recorded-otherwise", "variable")),
    ),
    Check(
        "always-true",
        "hint",
        "A condition is always true in every recording.",
        widget=_always_true,
        everywhere=True,
    ),
    Check(
        "never-reached",
        "hint",
        "No recording shows a band.",
        widget=_never_reached,
        everywhere=True,
        follows=(
            ("hidden-band", "about"),
            ("full-is-value", "widget"),
            ("swapped", "widget"),
            ("never-visible", "widget"),
            ("never-changes", "widget"),
            ("not-recorded", "variable"),
            ("recorded-otherwise", "variable"),
        ),
    ),
    Check(
        "hidden-band",
        "warning",
        "A band never shows because an earlier one matches first.",
        widget=_hidden_band,
        everywhere=True,
    ),
    Check("called-hidden", "warning", "A band has the name of a state word, such as hidden.", widget=_called_hidden),
    Check("band-gap", "warning", "Two neighbouring bands leave a gap between them.", widget=_band_gap),
)
