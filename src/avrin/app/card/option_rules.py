"""Rules that stand in options, edited in place: columns of a table, lines of a feed, what a button sets."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import Any

from PySide6.QtWidgets import QHBoxLayout, QWidget

from avrin.app.card.rows import LABELS, RuleRow
from avrin.app.header import Link
from avrin.app.session import Session
from avrin.model import replace
from avrin.widgets import BoundWidget

__all__ = ["option_lines"]

Offer = tuple[str, Callable[[], None]]


def option_lines(session: Session, chosen: BoundWidget) -> Iterator[tuple[QWidget, RuleRow | None]]:
    """A line for each rule in a widget's options, and one for what can be added."""
    widget = chosen.widget
    for path, template in chosen.kind.rules(widget.options):
        parts = path.split(".")
        name = parts[1] if parts[0] == "lines" else _title(widget.options, parts) if len(parts) > 1 else path
        row = RuleRow(
            session, ("widget", widget.id, "options", path), name.replace("_", " "), template=template, chips=False
        )
        line, inner = _line(0)
        inner.addWidget(row, 1)
        if len(parts) > 1 and parts[-1] != "set":
            away = Link("×", partial(_drop, session, chosen, path))
            away.setToolTip("Leave it out")
            inner.addWidget(away)
        yield line, row
    offers = _offers(session, chosen)
    if offers:
        line, inner = _line(LABELS)
        for text, act in offers:
            inner.addWidget(Link(text, act, bold=True))
        inner.addStretch(1)
        yield line, None


def _title(options: dict[str, Any], parts: list[str]) -> str:
    one = options[parts[0]][int(parts[1])]
    if parts[-1] == "set":
        return "sets"
    if parts[-1] == "to":
        return "to"
    return str(one.get("title") or one.get("set") or f"{parts[0]} {int(parts[1]) + 1}")


def _line(left: int) -> tuple[QWidget, QHBoxLayout]:
    line = QWidget()
    inner = QHBoxLayout(line)
    inner.setContentsMargins(left, 0, 0, 0)
    inner.setSpacing(2)
    return line, inner


def _put(session: Session, chosen: BoundWidget, name: str, value: Any) -> None:
    widget = session.project.widget(chosen.widget.id)
    session.set_widget(replace(widget, options={**widget.options, name: value}), f"{name} of {widget.title}")


def _drop(session: Session, chosen: BoundWidget, path: str) -> None:
    name, key, *_ = path.split(".")
    held = session.project.widget(chosen.widget.id).options[name]
    if isinstance(held, dict):
        _put(session, chosen, name, {k: v for k, v in held.items() if k != key})
    else:
        _put(session, chosen, name, [part for i, part in enumerate(held) if i != int(key)])


def _offers(session: Session, chosen: BoundWidget) -> list[Offer]:
    """What can be added."""
    raw, project = chosen.widget.options, session.project
    if chosen.kind.name == "feed":
        lines = dict(raw.get("lines", {}))
        found: list[Offer] = []
        for event, args in session.bound.scope.events.items():
            if event not in lines:
                text = " ".join([event, *(f"{{{name}}}" for name in args)])
                found.append((f"+ {event}", partial(_put, session, chosen, "lines", {**lines, event: text})))
        return found
    if chosen.kind.name == "table":
        columns = list(raw.get("columns", ()))
        roster = next((r for r in project.rosters if r.name == raw.get("roster")), None)
        if roster is None:
            return [(f"rows of {r.name}", partial(_put, session, chosen, "roster", r.name)) for r in project.rosters]
        new = [{"title": f.name, "text": f"{{{roster.name}[slot].{f.name}}}"} for f in roster.fields]
        return [(f"+ {one['title']}", partial(_put, session, chosen, "columns", [*columns, one])) for one in new]
    if chosen.kind.name == "button":
        first = next((v.name for v in project.variables if v.type in ("int", "float")), "")
        does = [*raw.get("does", ()), {"set": first, "to": first}]
        return [("+ set a value", partial(_put, session, chosen, "does", does))] if first else []
    return []
