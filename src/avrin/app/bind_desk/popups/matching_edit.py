"""Map names of another build in a popup: names a recording lacks or writes differently, with the nearest match."""

from __future__ import annotations

from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QGridLayout, QScrollArea, QVBoxLayout, QWidget

from avrin.app.bind_desk.card.recorded import differences_of
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.menu import new_menu
from avrin.app.controls.popup import Popup, row
from avrin.app.controls.scroller import thin_bars
from avrin.app.services.editor import Editor
from avrin.binding.declarations import all_declared
from avrin.editor.changes import Change
from avrin.editor.edits import edit
from avrin.errors import AvrinError
from avrin.onboarding.matching import Difference
from avrin.project.project import Recording

__all__ = ["MatchingEdit"]

WIDE, MOST_TALL = 520, 380


class MatchingEdit(Popup):
    """A row per differing name; each press is one edit."""

    def __init__(self, editor: Editor, parent: QWidget) -> None:
        super().__init__(parent)
        self.editor = editor
        self._scroll = QScrollArea()
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setWidgetResizable(True)
        thin_bars(self._scroll)
        self.links: dict[str, Link] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 10, 8, 12)
        column.addLayout(
            row(
                text_label("Names in this recording", "ink", bold=True),
                None,
                Link("done", self.close_it, bold=True),
            )
        )
        column.addWidget(self._scroll)
        editor.follow("popups", self)

    def on_change(self, change: Change) -> None:
        """Show the differences as they are now."""
        if change.of("recording", "tracks"):
            self._refresh()

    @property
    def recording(self) -> Recording | None:
        """The project's entry for the visible recording."""
        return self.editor.now.project.recording(self.editor.now.trace_name)

    def open_it(self) -> None:
        """Show the differences."""
        self.show()
        self._refresh()
        self.raise_()
        self.setFocus()

    def _refresh(self) -> None:
        if self.isHidden():
            return
        listed = self.recording
        if listed is None:
            self.close_it()
            return
        found = differences_of(self.editor, self.editor.now.recorded, listed)
        self.links = {}
        body = QWidget()
        grid = QGridLayout(body)
        grid.setContentsMargins(0, 4, 10, 4)
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(2, 1)
        for number, one in enumerate(found):
            grid.addWidget(text_label(one.sort, size="small"), number, 0)
            grid.addWidget(text_label(one.name or one.own, "ink", bold=True), number, 1)
            grid.addLayout(row(*self._acts(one, found), None), number, 2)
        if not found:
            grid.addWidget(text_label("All its names match the project's.", "ink"), 0, 0)
        grid.setRowStretch(len(found) + 1, 1)
        self._scroll.setWidget(body)
        self.setFixedSize(WIDE, min(MOST_TALL, 70 + 29 * max(1, len(found))))
        parent = self.parentWidget()
        if parent is not None:
            self.move(parent.width() - self.width() - 16, 46)

    def _acts(self, difference: Difference, differences: list[Difference]) -> list[QWidget | str | None]:
        if difference.sort == "otherwise":
            return [
                f"is its {difference.own}",
                self._link(difference, "not any more", partial(self._name, difference.own, "")),
            ]
        if difference.sort == "besides":
            return [self._link(difference, "declare it", partial(self._declare, difference.own))]
        near = [
            self._link(difference, f"is its {own}", partial(self._name, own, difference.name))
            for own in difference.nearest[:2]
        ]
        lacking = {other.name for other in differences if other.sort == "lacking"}
        columns = self.editor.now.recorded.columns
        rest = [name for name in columns if name not in lacking and "[" not in name]
        more = [self._link(difference, "is its …", partial(self._pick, difference, rest), menu=True)] if rest else []
        return [*near, *more] if near or more else ["no similar name here"]

    def _link(self, difference: Difference, text: str, act: object, *, menu: bool = False) -> Link:
        link = Link(text, act, menu=menu, bold=not menu)  # type: ignore[arg-type]
        self.links[f"{difference.name or difference.own}: {text}"] = link
        return link

    def _pick(self, difference: Difference, rest: list[str]) -> None:
        menu = new_menu(self)
        for own in rest:
            menu.addAction(own, partial(self._name, own, difference.name))
        link = self.links[f"{difference.name}: is its …"]
        menu.popup(link.mapToGlobal(QPoint(0, link.height())))

    def _name(self, own: str, name: str) -> None:
        """Map the recording's `own` to the project's `name`; "" removes the mapping."""
        listed, editor = self.recording, self.editor
        if listed is None:
            return
        recorded = {new: old for old, new in listed.names.items()}.get(own, own)  # it may have another name already
        names = {key: new for key, new in listed.names.items() if key not in (own, recorded) and new != name}
        if name and name != own:
            names[recorded] = name
        changed = replace(listed, names=names)
        unused = {own} - {
            name for w in editor.now.bound.widgets.values() for step in w.steps() for name in step.sources()
        }
        gone = {v.name for v in editor.now.project.variables if v.guessed and v.name in unused and name}
        traces = tuple(changed if one.key == listed.key else one for one in editor.now.project.traces)
        try:
            kept = tuple(v for v in editor.now.project.variables if v.name not in gone)
            editor.do(edit, replace(editor.now.project, traces=traces, variables=kept), f"names of {listed.title}")
        except AvrinError as error:
            editor.say(str(error), error=True)

    def _declare(self, own: str) -> None:
        editor = self.editor
        editor.do(
            edit,
            all_declared(editor.now.project, editor.now.recorded),
            f"declare {own} and all other recorded variables",
        )
