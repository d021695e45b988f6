"""Find a widget's drivers: the declared variables and derived values it depends on."""

from __future__ import annotations

from collections.abc import Sequence

from avrin.binding.bound import Bound, BoundWidget
from avrin.rules.errors import RuleError
from avrin.rules.scan import as_column, evaluate
from avrin.rules.steps import Step
from avrin.trace.frames import KIND_OF, Column, Trace

__all__ = ["driver_step", "drivers", "is_driver", "recorded_values"]


def drivers(bound: Bound, widget: BoundWidget) -> tuple[str, ...]:
    """Return the names of a widget's drivers, those of its main input first, then by distance."""
    known = bound.project.all_variables()
    derived = {step: name for name, step in _derived(bound).items()}
    main = [widget.inputs[name] for name in widget.kind.main_inputs()]
    others = [step for name, step in widget.inputs.items() if name != "visible"]
    names: dict[str, None] = {}
    seen: set[Step] = set()
    for begin in (main, [*others, widget.inputs["visible"], *widget.steps()]):
        level = begin
        while level:
            nearest = [step for step in dict.fromkeys(level) if step not in seen]
            seen.update(nearest)
            for step in nearest:
                name = step.params[0] if step.op.name == "column" else derived.get(step)
                if name is not None and (name in known or step in derived):
                    names[name] = None
            level = [arg for step in nearest for arg in step.args]
    return tuple(names)


def _derived(bound: Bound) -> dict[str, Step]:
    """Return the steps of derived values, without constants and plain aliases of variables."""
    found = {}
    for one in bound.project.derived:
        try:
            step = bound.scope.derived(one.name)
        except RuleError:
            continue
        if step.constant is None and step.op.name != "column":
            found[one.name] = step
    return found


def is_driver(bound: Bound, name: str) -> bool:
    """Return whether a name can drive a widget of this project."""
    return name in bound.project.all_variables() or name in _derived(bound)


def driver_step(bound: Bound, name: str) -> Step:
    """Return the step that a driver's values replace."""
    variable = bound.project.all_variables().get(name)
    return bound.scope.derived(name) if variable is None else bound.graph.column(name, KIND_OF[variable.type])


def recorded_values(bound: Bound, name: str, traces: Sequence[Trace]) -> list[Column | None]:
    """Return a driver's values in each recording: its column, or the derived value's track."""
    if name in bound.project.all_variables():
        return [trace.find(name) for trace in traces]
    step = bound.scope.derived(name)
    return [as_column(step, evaluate([step], trace, bound.graph)[0], bound.graph) for trace in traces]
