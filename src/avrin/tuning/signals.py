"""The input of tuning per recording: the level a band compares, and when the outcome it warns of happens."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError, nearest
from avrin.project.project import Band
from avrin.rules.steps import Step
from avrin.trace.frames import TRUE, Array, FloatArray

__all__ = ["RESTART", "Question", "Signal", "asked", "signals"]

RESTART = "restart"  # the outcome of a loss that is only visible as a restart


class Question(Struct, frozen=True):
    """A widget's band and the outcome it warns of. below: whether it is entered below its limit, else above.

    limit, back: as numbers, None if they are rules or there is no `back`. sticky: whether there is a `back`.
    held: seconds its condition must hold, 0 for none.
    copies: the widget, or all its slots. before: the outcome's step for each of them, None for restarts.
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
        """The seconds of `held` in the project."""
        held = self.widget.thresholds[self.band.name].held
        return 0.0 if held is None else _number(held) or 0.0

    @property
    def gap(self) -> float | None:
        """The distance of `back` from the limit, moved along with it; None if `back` is fixed or absent."""
        return self.back - self.limit if self.back is not None and self.limit is not None else None


class Signal(Struct, frozen=True, eq=False):
    """One recording, or one slot of it. t: seconds, shape (T,). runs: first and end frame of each run.

    level: NaN where missing, shape (T,). back: the same for a `back` that is a rule, else None.
    outcomes: ascending frames of the outcome. recording: its index. slot: of a repeated widget.
    """

    t: FloatArray
    runs: NDArray[np.int64]
    level: FloatArray
    back: FloatArray | None
    outcomes: NDArray[np.int64]
    recording: int
    slot: int


def asked(bound: Bound, ident: str, band: str, before: str) -> Question:
    """Parse a question: `ID`, or `ID[slot]` of a repeated widget; a rule, an outcome's name, or `restart`.

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
        raise AvrinError(
            f"the band '{band}' of {name} has a condition instead of a limit", advice="Tune a band with a limit"
        )
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
    """Return a step that is true on each frame on which a rule turns true. Raises AvrinError for an invalid rule."""
    if rule == RESTART:
        return None
    rule = next((one.rule for one in bound.project.outcomes if one.name == rule), rule)
    scope = bound.scope.knowing({})
    if slot is None:
        return scope.rule(f"rose({rule})", "flag")
    with scope.at_slot(slot):
        return scope.rule(f"rose({rule})", "flag")


def signals(every: Sequence[Tracks], question: Question) -> list[Signal]:
    """Return the signals of all recordings in order, one per slot."""
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
