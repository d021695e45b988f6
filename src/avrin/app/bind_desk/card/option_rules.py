"""Rules in options, edited on the card: columns of a table, lines of a feed, assignments of a button."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import partial

from msgspec.structs import replace
from PySide6.QtWidgets import QHBoxLayout, QWidget

from avrin.app.bind_desk.card.rule_row import LABELS, RuleRow
from avrin.app.controls.field import Field
from avrin.app.controls.link import Link
from avrin.app.controls.number_field import NumberField
from avrin.app.services.editor import Editor
from avrin.binding.bound import BoundWidget
from avrin.binding.places import RulePlace, with_rule
from avrin.binding.tracks import Tracks
from avrin.editor.changes import Change
from avrin.editor.edits import edit, seal, set_widget
from avrin.edits.typed import DISTANCE, value_text
from avrin.kinds.kind import Addition
from avrin.render.columns import columns_fitted
from avrin.trace.frames import Trace

__all__ = ["additions", "fit_columns", "option_lines"]


ACROSS = 270  # pixels available for links that add entries, at the card's minimum width


def additions(editor: Editor, chosen: BoundWidget) -> list[Addition]:
    """Return the entries that can be added to a widget's options."""
    return list(chosen.kind.additions(chosen.widget.options, editor.now.project, editor.now.bound.scope.events))


def option_lines(
    editor: Editor, chosen: BoundWidget, traces: Callable[[], Sequence[Trace]]
) -> Iterator[tuple[QWidget, RuleRow | None]]:
    """Yield a row per rule in a widget's options, and one for entries that can be added.

    traces: returns all recordings that the project lists.
    """
    widget = chosen.widget
    for rule in chosen.kind.rules(widget.options):
        place = RulePlace("widget", widget.id, "options", rule.path)
        row = RuleRow(editor, place, rule.title, template=rule.template, chips=False)
        line, inner = _line(0)
        if rule.title_path:
            row.name_by(_title(editor, widget.id, rule.title_path, rule.title))
        inner.addWidget(row, 1)
        if rule.sized:
            inner.addWidget(_Width(editor, widget.id, rule.sized))
        if rule.entry and not rule.entry.endswith(".0") and rule.entry.rpartition(".")[2].isdigit():
            before = Link("↑", partial(_before, editor, widget.id, rule.entry))
            before.setToolTip("Move up")
            inner.addWidget(before)
        elif rule.sized:
            inner.addSpacing(Link("↑", _nothing).sizeHint().width() + 2)
        if rule.entry:
            away = Link("×", partial(_drop, editor, widget.id, rule.entry))
            away.setToolTip("Remove it")
            inner.addWidget(away)
        yield line, row
    links = [
        Link(offer.title, partial(_add, editor, widget.id, offer.title), bold=True)
        for offer in additions(editor, chosen)
    ]
    if chosen.kind.has_columns and widget.options.get("columns"):
        fit = Link("fit columns", partial(fit_columns, editor, widget.id, traces), bold=True)
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


class _Width(NumberField):
    """The width of a column in reference pixels; empty for an equal share. Follows drags in the picture."""

    def __init__(self, editor: Editor, ident: str, path: str) -> None:
        super().__init__("width", 42, DISTANCE, editor.show_error)
        self.editor = editor
        self.ident = ident
        self._option, at, self._key = path.split(".")
        self._at = int(at)
        self.setPlaceholderText("wide")
        self.setToolTip("Reference pixels; empty for an equal share of the remaining width")
        self.entered.connect(self._set_width)
        editor.follow("part width", self)
        self.refresh()

    def on_change(self, _change: Change) -> None:
        """Show the width as it is now."""
        self.refresh()

    def _parts(self) -> list[dict[str, object]]:
        widget = next((one for one in self.editor.now.project.widgets if one.id == self.ident), None)
        return [dict(part) for part in widget.options.get(self._option, ())] if widget is not None else []

    def refresh(self) -> None:
        """Show the current state."""
        parts = self._parts()
        if self._at < len(parts):
            self.show_text(value_text(parts[self._at].get(self._key)))

    def _set_width(self, wide: float) -> None:
        parts = self._parts()
        parts[self._at].pop(self._key, None)
        parts[self._at] |= {self._key: wide} if wide else {}
        self.editor.do(seal)
        _put(self.editor, self.ident, self._option, parts)


def _title(editor: Editor, ident: str, path: str, title: str) -> Field:
    """Return the field of a text that labels a rule."""
    field = Field("title", LABELS - 8)
    field.show_text(title)
    field.setPlaceholderText("title")

    def taken(text: str) -> None:
        place = RulePlace("widget", ident, "options", path)
        editor.do(seal)
        editor.do(
            edit,
            with_rule(editor.now.project, place, text.strip()),
            f"title of {editor.now.project.widget(ident).title}",
        )

    field.taken.connect(taken)
    return field


def _add(editor: Editor, ident: str, title: str) -> None:
    """Add to the current options, which may have changed since the link was created."""
    offer = next((one for one in additions(editor, editor.now.bound.widgets[ident]) if one.title == title), None)
    if offer is not None:
        _put(editor, ident, offer.option, offer.value)


def fit_columns(editor: Editor, ident: str, traces: Callable[[], Sequence[Trace]]) -> None:
    """Fit a table's columns to their texts over all recordings. One undo step."""
    every = [Tracks(editor.now.bound, trace) for trace in traces()]
    editor.do(seal)
    editor.do(set_widget, columns_fitted(every, editor.now.bound.widgets[ident]), f"columns of {ident}")


def _nothing() -> None:
    """Do nothing: for links that are only measured."""


def _before(editor: Editor, ident: str, entry: str) -> None:
    """Swap an entry of a list with the previous one."""
    name, _, key = entry.partition(".")
    held, at = list(editor.now.project.widget(ident).options[name]), int(key)
    held[at - 1 : at + 1] = reversed(held[at - 1 : at + 1])
    _put(editor, ident, name, held)


def _line(indent: int) -> tuple[QWidget, QHBoxLayout]:
    line = QWidget()
    inner = QHBoxLayout(line)
    inner.setContentsMargins(indent, 0, 0, 0)
    inner.setSpacing(2)
    return line, inner


def _put(editor: Editor, ident: str, name: str, value: object) -> None:
    widget = editor.now.project.widget(ident)
    editor.do(set_widget, replace(widget, options={**widget.options, name: value}), f"{name} of {widget.title}")


def _drop(editor: Editor, ident: str, entry: str) -> None:
    """Remove an entry of an option: "lines.hit", "columns.0"."""
    name, _, key = entry.partition(".")
    held = editor.now.project.widget(ident).options[name]
    if isinstance(held, dict):
        _put(editor, ident, name, {k: v for k, v in held.items() if k != key})
    else:
        _put(editor, ident, name, [part for i, part in enumerate(held) if i != int(key)])
