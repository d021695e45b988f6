"""Rules in options, edited on the card: columns of a table, lines of a feed, assignments of a button."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from msgspec.structs import replace
from PySide6.QtWidgets import QHBoxLayout, QWidget

from avrin.app.bind_desk.card.rule_row import LABELS, RuleRow
from avrin.app.controls.field import Field, pixels, written
from avrin.app.controls.link import Link
from avrin.app.session.session import Session
from avrin.model.errors import AvrinError
from avrin.render.columns import columns_fitted
from avrin.widgets.binding import BoundWidget
from avrin.widgets.kind import Addition
from avrin.widgets.places import RulePlace, with_rule
from avrin.widgets.tracks import Tracks

__all__ = ["additions", "fit_columns", "option_lines"]


ACROSS = 270  # pixels available for links that add entries, at the card's minimum width


def additions(session: Session, chosen: BoundWidget) -> list[Addition]:
    """Return the entries that can be added to a widget's options."""
    return list(chosen.kind.additions(chosen.widget.options, session.project, session.bound.scope.events))


def option_lines(session: Session, chosen: BoundWidget) -> Iterator[tuple[QWidget, RuleRow | None]]:
    """Yield a row per rule in a widget's options, and one for entries that can be added."""
    widget = chosen.widget
    for rule in chosen.kind.rules(widget.options):
        place = RulePlace("widget", widget.id, "options", rule.path)
        row = RuleRow(session, place, rule.title, template=rule.template, chips=False)
        line, inner = _line(0)
        if rule.title_path:
            row.name_by(_title(session, widget.id, rule.title_path, rule.title))
        inner.addWidget(row, 1)
        if rule.sized:
            inner.addWidget(_Width(session, widget.id, rule.sized))
        if rule.entry and not rule.entry.endswith(".0") and rule.entry.rpartition(".")[2].isdigit():
            before = Link("↑", partial(_before, session, widget.id, rule.entry))
            before.setToolTip("Move up")
            inner.addWidget(before)
        elif rule.sized:
            inner.addSpacing(Link("↑", _nothing).sizeHint().width() + 2)
        if rule.entry:
            away = Link("×", partial(_drop, session, widget.id, rule.entry))
            away.setToolTip("Remove it")
            inner.addWidget(away)
        yield line, row
    links = [
        Link(offer.title, partial(_add, session, widget.id, offer.title), bold=True)
        for offer in additions(session, chosen)
    ]
    if chosen.kind.has_columns and widget.options.get("columns"):
        fit = Link("fit columns", partial(fit_columns, session, widget.id), bold=True)
        fit.setToolTip("As wide as their texts over all recordings")
        links.append(fit)
    while links:
        line, inner = _line(LABELS)
        room = ACROSS
        while links and (room == ACROSS or links[0].sizeHint().width() <= room):
            room -= links[0].sizeHint().width() + 2
            inner.addWidget(links.pop(0))
        inner.addStretch(1)
        yield line, None


class _Width(Field):
    """The width of a column in reference pixels; empty for an equal share. Follows drags in the picture."""

    def __init__(self, session: Session, ident: str, path: str) -> None:
        super().__init__("width", 42)
        self.session = session
        self.ident = ident
        self._option, at, self._key = path.split(".")
        self._at = int(at)
        self.setPlaceholderText("wide")
        self.setToolTip("Reference pixels; empty for an equal share of the remaining width")
        self.taken.connect(self._set_width)
        session.project_changed.connect(self.refresh)
        self.refresh()

    def _parts(self) -> list[dict[str, object]]:
        widget = next((one for one in self.session.project.widgets if one.id == self.ident), None)
        return [dict(part) for part in widget.options.get(self._option, ())] if widget is not None else []

    def refresh(self) -> None:
        """Show the current state."""
        parts = self._parts()
        if self._at < len(parts):
            self.show_text(written(parts[self._at].get(self._key)))

    def _set_width(self, text: str) -> None:
        try:
            wide = max(0.0, pixels(text)) if text.strip() else 0.0
        except AvrinError as error:
            self.mark(True)
            self.session.reported.emit(str(error), True)
            return
        parts = self._parts()
        parts[self._at].pop(self._key, None)
        parts[self._at] |= {self._key: wide} if wide else {}
        self.session.seal()
        _put(self.session, self.ident, self._option, parts)


def _title(session: Session, ident: str, path: str, title: str) -> Field:
    """Return the field of a text that labels a rule."""
    field = Field("title", LABELS - 8)
    field.show_text(title)
    field.setPlaceholderText("title")

    def taken(text: str) -> None:
        place = RulePlace("widget", ident, "options", path)
        session.seal()
        session.edit(with_rule(session.project, place, text.strip()), f"title of {session.project.widget(ident).title}")

    field.taken.connect(taken)
    return field


def _add(session: Session, ident: str, title: str) -> None:
    """Add to the current options, which may have changed since the link was created."""
    offer = next((one for one in additions(session, session.bound.widgets[ident]) if one.title == title), None)
    if offer is not None:
        _put(session, ident, offer.option, offer.value)


def fit_columns(session: Session, ident: str) -> None:
    """Fit a table's columns to their texts over all recordings. One undo step."""
    every = [Tracks(session.bound, trace) for trace in session.checking.traces()]
    session.seal()
    session.set_widget(columns_fitted(every, session.bound.widgets[ident]), f"columns of {ident}")


def _nothing() -> None:
    """Do nothing: for links that are only measured."""


def _before(session: Session, ident: str, entry: str) -> None:
    """Swap an entry of a list with the previous one."""
    name, _, key = entry.partition(".")
    held, at = list(session.project.widget(ident).options[name]), int(key)
    held[at - 1 : at + 1] = reversed(held[at - 1 : at + 1])
    _put(session, ident, name, held)


def _line(indent: int) -> tuple[QWidget, QHBoxLayout]:
    line = QWidget()
    inner = QHBoxLayout(line)
    inner.setContentsMargins(indent, 0, 0, 0)
    inner.setSpacing(2)
    return line, inner


def _put(session: Session, ident: str, name: str, value: object) -> None:
    widget = session.project.widget(ident)
    session.set_widget(replace(widget, options={**widget.options, name: value}), f"{name} of {widget.title}")


def _drop(session: Session, ident: str, entry: str) -> None:
    """Remove an entry of an option: "lines.hit", "columns.0"."""
    name, _, key = entry.partition(".")
    held = session.project.widget(ident).options[name]
    if isinstance(held, dict):
        _put(session, ident, name, {k: v for k, v in held.items() if k != key})
    else:
        _put(session, ident, name, [part for i, part in enumerate(held) if i != int(key)])
