"""What a warning is tuned by in one recording: the level that its band compares, and when what it warns of came about."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from avrin.model import AvrinError, Band, nearest
from avrin.rules import Step
from avrin.trace import TRUE, Array, FloatArray
from avrin.widgets import Bound, BoundWidget, Tracks

__all__ = ["RESTART", "Question", "Signal", "asked", "signals"]

RESTART = "restart"  # the outcome that is a loss seen as a new beginning alone


class Question(Struct, frozen=True):
    """A band of a widget and what it warns of. below: whether it is entered below its limit, else above.

    limit, back: where they are numbers, None where they are rules, and `back` where there is none. sticky: whether there is one.
    held: for how many seconds it must hold before it is on, 0 for at once.
    copies: the widget, or all its slots. before: a condition's step for each of them, None for restarts.
    """

    widget: BoundWidget
    band: Band
    below: bool
    limit: float | None
    back: float | None
    sticky: bool
    held: float
    copies: tuple[BoundWidget, ...]
    before: tuple[Step | None, ...]

    @property
    def written_held(self) -> float:
        """For how long its band must hold as the project has it."""
        held = self.widget.thresholds[self.band.name].held
        return 0.0 if held is None else _number(held) or 0.0

    @property
    def gap(self) -> float | None:
        """How far its `back` lies from its limit, which moves along; None where it stays as it is, or where there is none."""
        return self.back - self.limit if self.back is not None and self.limit is not None else None


class Signal(Struct, frozen=True, eq=False):
    """One recording, or one slot in it. t: seconds, shape (T,). runs: first frame and the one after the last of each run.

    level: NaN where missing, shape (T,). back: likewise, where it is a rule that stays as it is; else None.
    outcomes: frames on which what is warned of came about, rising. recording: which of all it is. slot: of a repeated widget.
    """

    t: FloatArray
    runs: NDArray[np.int64]
    level: FloatArray
    back: FloatArray | None
    outcomes: NDArray[np.int64]
    recording: int
    slot: int


def asked(bound: Bound, ident: str, band: str, before: str) -> Question:
    """A question in words, checked: `ID`, or `ID[slot]` of a repeated widget; a rule, an outcome's name, or `restart`.

    Raises AvrinError.
    """
    name, _, rest = ident.partition("[")
    widget = bound.widgets.get(name)
    if widget is None:
        close = nearest(name, bound.widgets)
        raise AvrinError(
            f"there is no widget '{name}'" + (f": did you mean '{close}'?" if close else ""),
            advice="" if close else f"There are {', '.join(bound.widgets) or 'none'}",
        )
    copies = widget.each()
    if rest:
        wanted = rest.removesuffix("]")
        copies = tuple(copy for copy in copies if str(copy.slot) == wanted)
        if not copies or not rest.endswith("]") or not widget.widget.repeat:
            raise AvrinError(
                f"there is no slot '{ident}'", advice=f"Write {name}, or {name}[0]" if widget.copies else ""
            )
    known = {one.name: one for one in widget.widget.bands}
    if band not in known:
        close = nearest(band, known)
        raise AvrinError(
            f"{name} has no band '{band}'" + (f": did you mean '{close}'?" if close else ""),
            advice="" if close else f"It has {', '.join(known) or 'none'}",
        )
    found = known[band]
    if found.when or widget.level is None:
        raise AvrinError(f"the band '{band}' of {name} has a condition, and no limit", advice="Tune one that has")
    limit, back, held = widget.thresholds[band]
    wait = 0.0 if held is None else _number(held)
    if wait is None:
        raise AvrinError(
            f"how long the band '{band}' of {name} must hold is a rule", advice="Write a plain duration, such as 300ms"
        )
    return Question(
        widget, found, bool(found.below), _number(limit), _number(back), bool(found.back), wait, copies,
        tuple(_outcome(bound, before, copy.slot if widget.widget.repeat else None) for copy in copies),
    )  # fmt: skip


def _number(step: Step | None) -> float | None:
    if step is None or step.constant is None:
        return None
    value = float(step.constant[0])
    return None if np.isnan(value) else value


def _outcome(bound: Bound, rule: str, slot: int | None) -> Step | None:
    """The step that is true on each frame on which a rule turns true. Raises AvrinError where it is none."""
    if rule == RESTART:
        return None
    rule = next((one.rule for one in bound.project.outcomes if one.name == rule), rule)
    scope = bound.scope.knowing({})
    if slot is None:
        return scope.rule(f"rose({rule})", "flag")
    with scope.at_slot(slot):
        return scope.rule(f"rose({rule})", "flag")


def signals(every: Sequence[Tracks], question: Question) -> list[Signal]:
    """All recordings as a question has them, in their order, each slot on its own."""
    found = []
    for number, tracks in enumerate(every):
        trace = tracks.trace
        runs = np.array([[start, end] for _, start, end in trace.runs()], np.int64).reshape(-1, 2)
        for copy, before in zip(question.copies, question.before, strict=True):
            assert copy.level is not None
            back = copy.thresholds[question.band.name].back
            stays = back is not None and question.gap is None
            found.append(
                Signal(
                    trace.t, runs, _column(tracks, copy.level), _column(tracks, back) if stays and back is not None else None,
                    _outcomes(tracks, before, runs), number, copy.slot,
                )
            )  # fmt: skip
    return found


def _column(tracks: Tracks, step: Step) -> FloatArray:
    data: Array = tracks.column(step).data
    return np.asarray(data, np.float64)


def _outcomes(tracks: Tracks, before: Step | None, runs: NDArray[np.int64]) -> NDArray[np.int64]:
    if before is None:
        return runs[:-1, 1] - 1
    return np.flatnonzero(tracks.column(before).data == TRUE)
