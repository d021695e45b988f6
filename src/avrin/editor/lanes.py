"""The lanes and their order: each widget with its variables, other variables, rosters, events.

A block moves as one: a widget with its variables, a roster with its expanded fields, any other lane alone.
"""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import TYPE_CHECKING, Literal, get_args

from msgspec import Struct

from avrin.editor.snapshot import Selection, Snapshot, sources
from avrin.kinds.registry import KINDS
from avrin.storage.view_state import ViewState
from avrin.trace.frames import KIND_OF, ColumnKind, event_column

if TYPE_CHECKING:
    from avrin.findings.finding import Finding

__all__ = [
    "FOLD", "Lane", "LaneSort", "dragged_name", "is_selected", "key_of", "lanes", "moved_by_hand", "selection_of",
]  # fmt: skip

WIDGET_HEIGHT = 38
CURVE_HEIGHT = 46
FLAT_HEIGHT = 36
FOLD_HEIGHT = 28
FEW_UNUSED = 8  # more unused variables than this are collapsed
FOLD = "unused variables"  # the name of the lane they are collapsed into
EDIT_HEIGHT = 162  # of a variable whose declaration is being edited

LaneSort = Literal["widget", "variable", "roster", "event", "fold"]


class Lane(Struct, frozen=True):
    """A lane. name: a widget's id, a variable's, roster's or event's name. kind: what a variable holds.

    declared: in the project. rule: it is a derived value.
    open: an expanded roster or fold. count: the number of lanes in a fold.
    """

    name: str
    sort: LaneSort
    height: int
    kind: ColumnKind = "number"
    declared: bool = True
    rule: bool = False
    open: bool = False
    count: int = 0


Block = list[Lane]
FindingsOf = Callable[[str], "list[Finding]"]


def key_of(lane: Lane) -> str:
    """Return a lane's key in the manual order."""
    return f"{lane.sort} {lane.name}"


def lanes(
    now: Snapshot, offered: Collection[str], findings: FindingsOf, *, find: str = "", editing: str = ""
) -> list[Lane]:
    """Return all lanes from top to bottom, ordered and expanded by the layout.

    offered: names that offers use; they are not folded away. findings: returns those of a lane, by its name.
    find: only lanes with this in their name or title, even in folds. editing: the variable whose declaration is
    being edited; its lane is always included.
    """
    return [lane for block in _blocks(now, offered, findings, find, editing) for lane in block]


def moved_by_hand(now: Snapshot, offered: Collection[str], findings: FindingsOf, key: str, before: str) -> list[str]:
    """Return the manual order after moving a lane before another's block, "" for the end: keys of all blocks.

    A variable leaves its widget's block when it is moved.
    """
    keys = [key_of(block[0]) for block in _blocks(now, offered, findings) if key_of(block[0]) != key]
    at = keys.index(before) if before in keys else len(keys)
    return [*keys[:at], key, *keys[at:]]


def _blocks(
    now: Snapshot, offered: Collection[str], findings: FindingsOf, find: str = "", editing: str = ""
) -> list[Block]:
    own = now.layout
    builder = _Builder(now, find.strip().lower(), own, editing)
    # Bound widgets come first: a plate or a picture that is only shown or hidden says little.
    fed_first = sorted(now.bound.widgets.items(), key=lambda pair: not pair[1].kind.inputs)
    for ident, widget in fed_first:
        builder.widget(ident, widget.widget.title, sources(widget))
    for derived in now.project.derived:
        builder.variable(derived.name)
    names = list(dict.fromkeys([*now.project.all_variables(), *now.trace.columns]))
    alone = [n for n in names if ("[" not in n or n in builder.alone) and n not in builder.seen]
    unused = [name for name in alone if name not in offered and name != editing]
    folds = len(unused) > FEW_UNUSED and not builder.find
    for name in alone:
        if not folds or name not in unused:
            builder.variable(name)
    for roster in dict.fromkeys(name.split("[", 1)[0] for name in names if "[" in name):
        builder.roster(roster, [name for name in names if name.startswith(f"{roster}[")])
    for event in dict.fromkeys([*(e.name for e in now.project.events), *now.trace.event_kinds]):
        builder.event(event)
    if folds:
        builder.fold(unused)
    return [block for block in _ordered(now, findings, builder.blocks) if block]


def _ordered(now: Snapshot, findings: FindingsOf, blocks: list[Block]) -> list[Block]:
    """Sort blocks; the fold of unused variables stays last."""
    own = now.layout
    if own.order == "by hand":
        return _by_hand(own.by_hand, blocks)
    if own.order == "by kind":
        kinds, columns = list(KINDS), get_args(ColumnKind)
        sorts = ["widget", "variable", "roster", "event", "fold"]

        def kind(block: Block) -> tuple[int, int]:
            head = block[0]
            if head.sort == "widget":
                return 0, kinds.index(now.project.widget(head.name).kind)
            return sorts.index(head.sort), columns.index(head.kind)

        return sorted(blocks, key=kind)
    if own.order == "by trouble":
        from avrin.findings.finding import SEVERITIES  # late: 1 ms

        def trouble(block: Block) -> int:
            if block[0].sort == "fold":
                return len(SEVERITIES) + 1
            found = [f.severity for lane in block for f in findings(lane.name)]
            return min(map(SEVERITIES.index, found), default=len(SEVERITIES))

        return sorted(blocks, key=trouble)
    return blocks


def _by_hand(keys: tuple[str, ...], blocks: list[Block]) -> list[Block]:
    """Sort by the manual order; a new block comes after its predecessor in the default order."""
    place = {key: at for at, key in enumerate(keys)}
    found = sorted((b for b in blocks if key_of(b[0]) in place), key=lambda b: place[key_of(b[0])])
    before: Block | None = None
    for block in blocks:
        if key_of(block[0]) not in place:
            found.insert(found.index(before) + 1 if before is not None else 0, block)
        before = block
    return [*(b for b in found if b[0].sort != "fold"), *(b for b in found if b[0].sort == "fold")]


class _Builder:
    def __init__(self, now: Snapshot, find: str, own: ViewState, editing: str) -> None:
        self.now = now
        self.find = find
        self.unfolded = frozenset(own.unfolded)
        self.editing = editing
        # Variables moved out of their widget's block by hand.
        self.alone = {key.removeprefix("variable ") for key in own.by_hand} if own.order == "by hand" else set()
        self.blocks: list[Block] = []
        self.seen: set[str] = set()

    def _wanted(self, *names: str) -> bool:
        return not self.find or any(self.find in name.lower() for name in names)

    def widget(self, ident: str, title: str, fed_by: list[str]) -> None:
        mine = [name for name in fed_by if name == self.editing or self._wanted(ident, title, name)]
        block: Block = []
        if mine or self._wanted(ident, title):
            block.append(Lane(ident, "widget", WIDGET_HEIGHT))
        for name in mine:
            # An event has a lane of its own below.
            if not name.endswith("()") and "()." not in name and name not in self.alone:
                self._variable(name, block)
        self.blocks += [block] if block else []

    def variable(self, name: str) -> None:
        if name not in self.seen and (name == self.editing or self._wanted(name)):
            self.blocks.append([])
            self._variable(name, self.blocks[-1])

    def _variable(self, name: str, block: Block) -> None:
        if name in self.seen:
            return
        self.seen.add(name)
        declared = self.now.variable(name)
        column = self.now.trace.columns.get(name)
        rule = declared is None and self.now.is_derived(name)
        column = self.now.column(name) if rule else column
        kind: ColumnKind = KIND_OF[declared.type] if declared else column.kind if column else "number"
        height = EDIT_HEIGHT if name == self.editing else CURVE_HEIGHT if kind == "number" else FLAT_HEIGHT
        block.append(Lane(name, "variable", height, kind, declared is not None or rule, rule))

    def roster(self, name: str, fields: list[str]) -> None:
        fields = [
            field for field in fields
            if field not in self.seen and field not in self.alone and (field == self.editing or self._wanted(field))
        ]  # fmt: skip
        if not fields and not self._wanted(name):
            return
        open_ = name in self.unfolded or bool(self.find) or self.editing in fields
        self.blocks.append([Lane(name, "roster", FOLD_HEIGHT, open=open_)])
        for field in fields if open_ else ():
            self._variable(field, self.blocks[-1])

    def fold(self, names: list[str]) -> None:
        open_ = FOLD in self.unfolded
        self.blocks.append([Lane(FOLD, "fold", FOLD_HEIGHT, open=open_, count=len(names))])
        for name in names if open_ else ():
            self._variable(name, self.blocks[-1])

    def event(self, name: str) -> None:
        if self._wanted(name):
            declared = any(event.name == name for event in self.now.project.events)
            self.blocks.append([Lane(name, "event", FLAT_HEIGHT, declared=declared)])


def dragged_name(lane: Lane) -> str:
    """Return what a lane's head drags onto the picture, or "": a variable, a whole roster, an event."""
    return {"variable": lane.name, "roster": f"{lane.name}[]", "event": f"{lane.name}()"}.get(lane.sort, "")


def selection_of(lane: Lane) -> Selection:
    """Return the selection of a lane's widget, variable or event."""
    if lane.sort == "event":
        return Selection(variable=event_column(lane.name))
    return Selection(widget=lane.name) if lane.sort == "widget" else Selection(variable=lane.name)


def is_selected(lane: Lane, selected: Selection) -> bool:
    """Return whether a lane is selected."""
    if lane.sort == "widget":
        return lane.name in selected.widgets
    return lane.sort not in ("roster", "fold") and selection_of(lane) == selected
