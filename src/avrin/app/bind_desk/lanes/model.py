"""Which lanes there are and in what order: each widget, the variables that feed it, all others, rosters, events."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from msgspec import Struct

from avrin.app.session.present import sources
from avrin.app.session.session import Session
from avrin.trace import KIND_OF, ColumnKind

__all__ = ["FOLD", "Lane", "LaneSort", "lanes"]

WIDGET_HEIGHT = 38
CURVE_HEIGHT = 46
FLAT_HEIGHT = 36
FOLD_HEIGHT = 28
FEW_UNUSED = 8  # variables that nothing uses are folded away where there are more
FOLD = "what nothing uses"  # the name of the lane that they are folded into
EDIT_HEIGHT = 138  # of a variable whose declaration is being edited

LaneSort = Literal["widget", "variable", "roster", "event", "fold"]


class Lane(Struct, frozen=True):
    """One lane. name: a widget's id, a variable's, roster's or event's name. kind: what a variable holds.

    declared: in the project. open: a roster whose fields are shown, or a fold. count: how many lanes a fold has in it.
    """

    name: str
    sort: LaneSort
    height: int
    kind: ColumnKind = "number"
    declared: bool = True
    open: bool = False
    count: int = 0


def lanes(session: Session, *, find: str = "", unfolded: Iterable[str] = (), editing: str = "") -> list[Lane]:
    """All lanes from top to bottom.

    find: only what has this in its name or title, wherever it is folded away. unfolded: rosters that show their fields.
    editing: the variable whose declaration is being edited.
    """
    builder = _Builder(session, find.strip().lower(), frozenset(unfolded), editing)
    # What is fed comes first: a plate or a picture that only hides and shows tells little.
    fed_first = sorted(session.bound.widgets.items(), key=lambda pair: not pair[1].kind.inputs)
    for ident, widget in fed_first:
        builder.widget(ident, widget.widget.title, sources(widget))
    names = list(dict.fromkeys([*session.project.all_variables(), *session.trace.columns]))
    alone = [name for name in names if "[" not in name and name not in builder.seen]
    offered = session.suggesting.names
    unused = [name for name in alone if name not in offered and name != editing]
    folds = len(unused) > FEW_UNUSED and not builder.find
    for name in alone:
        if not folds or name not in unused:
            builder.variable(name)
    for roster in dict.fromkeys(name.split("[", 1)[0] for name in names if "[" in name):
        builder.roster(roster, [name for name in names if name.startswith(f"{roster}[")])
    for event in dict.fromkeys([*(e.name for e in session.project.events), *session.trace.event_kinds]):
        builder.event(event)
    if folds:
        builder.fold(unused)
    return builder.lanes


class _Builder:
    def __init__(self, session: Session, find: str, unfolded: frozenset[str], editing: str) -> None:
        self.session = session
        self.find = find
        self.unfolded = unfolded
        self.editing = editing
        self.lanes: list[Lane] = []
        self.seen: set[str] = set()

    def _wanted(self, *names: str) -> bool:
        return not self.find or any(self.find in name.lower() for name in names)

    def widget(self, ident: str, title: str, fed_by: list[str]) -> None:
        mine = [name for name in fed_by if self._wanted(ident, title, name)]
        if mine or self._wanted(ident, title):
            self.lanes.append(Lane(ident, "widget", WIDGET_HEIGHT))
        for name in mine:
            if not name.endswith("()") and "()." not in name:  # an event's own lane stands below
                self.variable(name, shown=True)

    def variable(self, name: str, *, shown: bool = False) -> None:
        if name in self.seen or not (shown or self._wanted(name)):
            return
        self.seen.add(name)
        declared = self.session.variable(name)
        column = self.session.trace.columns.get(name)
        kind: ColumnKind = KIND_OF[declared.type] if declared else column.kind if column else "number"
        height = EDIT_HEIGHT if name == self.editing else CURVE_HEIGHT if kind == "number" else FLAT_HEIGHT
        self.lanes.append(Lane(name, "variable", height, kind, declared is not None))

    def roster(self, name: str, fields: list[str]) -> None:
        fields = [field for field in fields if field not in self.seen and self._wanted(field)]
        if not fields:
            return
        open_ = name in self.unfolded or bool(self.find) or self.editing in fields
        self.lanes.append(Lane(name, "roster", FOLD_HEIGHT, open=open_))
        for field in fields if open_ else ():
            self.variable(field, shown=True)

    def fold(self, names: list[str]) -> None:
        open_ = FOLD in self.unfolded
        self.lanes.append(Lane(FOLD, "fold", FOLD_HEIGHT, open=open_, count=len(names)))
        for name in names if open_ else ():
            self.variable(name)

    def event(self, name: str) -> None:
        if self._wanted(name):
            declared = any(event.name == name for event in self.session.project.events)
            self.lanes.append(Lane(name, "event", FLAT_HEIGHT, declared=declared))
