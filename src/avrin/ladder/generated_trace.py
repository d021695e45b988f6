"""Generate a trace that visits every threshold of a project: edges from the ladder, words from its rules."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.binding.bound import Bound
from avrin.binding.tracks import Tracks
from avrin.ladder.compared_words import compared_words
from avrin.ladder.samples import samples
from avrin.project.project import Variable
from avrin.trace.frames import KIND_OF, Column, Trace
from avrin.trace.generate import Plan, generate_trace

__all__ = ["made_for"]


def made_for(bound: Bound, plan: Plan, name: str) -> Trace:
    """Return a trace that moves each variable to and around the values at which a widget changes.

    Raises AvrinError like `generate_trace`.
    """
    variables = bound.project.all_variables()
    steps = [step for widget in bound.widgets.values() for step in widget.steps()]
    texts = [name for name, v in variables.items() if v.type == "text"]
    words = {name: compared_words(steps, bound.graph, name) for name in texts}
    return generate_trace(name, variables, replace(plan, thresholds=_thresholds(bound, variables), words=words))


def _thresholds(bound: Bound, variables: dict[str, Variable]) -> dict[str, list[float]]:
    """Return for each number the values at which some widget changes visibly, with everything else at its start."""
    starts = {
        name: Column.of([float(v.start)] if KIND_OF[v.type] == "number" and isinstance(v.start, int | float) else [v.start])
        for name, v in variables.items()
    }  # fmt: skip
    tracks = Tracks(bound, Trace.make("", [0.0], starts))
    found: dict[str, set[float]] = {}
    for widget in bound.widgets.values():
        for name in dict.fromkeys(source for step in widget.steps() for source in step.sources()):
            variable = variables.get(name)
            if variable is None or KIND_OF[variable.type] != "number":
                continue
            ladder = samples(tracks, widget, name, 0)
            found.setdefault(name, set()).update(r.value for r in ladder if r.edge and isinstance(r.value, float))
    return {name: sorted(values) for name, values in found.items()}
