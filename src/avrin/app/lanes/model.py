"""Which lanes there are and in what order: each widget, then the variables that feed it, then all the others."""

from __future__ import annotations

from dataclasses import dataclass

from avrin.app.session import Session, sources
from avrin.trace import KIND_OF, ColumnKind

__all__ = ["Lane", "lanes"]

WIDGET_HEIGHT = 38
CURVE_HEIGHT = 46
FLAT_HEIGHT = 28


@dataclass(frozen=True, slots=True)
class Lane:
    """One lane. widget: whether `name` is a widget's id; otherwise a variable of that kind. declared: in the project."""

    name: str
    widget: bool
    height: int
    kind: ColumnKind = "number"
    declared: bool = True


def lanes(session: Session) -> list[Lane]:
    """All lanes from top to bottom."""
    found: list[Lane] = []
    seen: set[str] = set()

    def variable(name: str) -> None:
        if name in seen:
            return
        seen.add(name)
        declared = session.variable(name)
        column = session.trace.columns.get(name)
        kind: ColumnKind = KIND_OF[declared.type] if declared else column.kind if column else "number"
        height = CURVE_HEIGHT if kind == "number" else FLAT_HEIGHT
        found.append(Lane(name, False, height, kind, declared is not None))

    for ident, widget in session.bound.widgets.items():
        found.append(Lane(ident, True, WIDGET_HEIGHT))
        for name in sources(widget):
            variable(name)
    for name in (*session.project.all_variables(), *session.trace.columns):
        variable(name)
    return found
