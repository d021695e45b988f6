"""Edit the options of the player in a popup: names, sizes, flashing, replaced colours."""

from __future__ import annotations

import re
from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QGridLayout, QWidget

from avrin.app.controls.choice import Choice
from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.number_field import NumberField
from avrin.app.controls.popup import Popup
from avrin.app.services.editor import Editor
from avrin.editor.changes import Change
from avrin.editor.edits import edit, seal
from avrin.editor.viewing import show_with
from avrin.edits.typed import NumberInput
from avrin.project.project import PlayerOption

__all__ = ["OptionsEdit"]

SCALE = NumberInput("a size of 25 to 400 %", "125", low=25, high=400, unit="%")
FLASHES, CALM = "as designed", "never"
HEX = re.compile(r"#[0-9a-fA-F]{6}\b")
MAX_LETTERS = 60  # letters of a name


class OptionsEdit(Popup):
    """A line for each option; each field is one edit."""

    def __init__(self, editor: Editor, parent: QWidget) -> None:
        super().__init__(parent)
        self.editor = editor
        self.fields: list[dict[str, QWidget]] = []
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(16, 12, 12, 12)
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(6)
        self._shown: tuple[PlayerOption, ...] | None = None
        editor.follow("popups", self)

    def on_change(self, change: Change) -> None:
        """Show the options as they are now."""
        if change.of("tracks") and self.isVisible():
            self._show()

    def open_under(self, link: QWidget) -> None:
        """Open below a link of the header, within the window."""
        self._shown = None
        self._show()
        parent = self.parentWidget()
        assert parent is not None
        at = link.mapTo(parent, QPoint(0, link.height() + 6))
        self.move(max(8, min(at.x(), parent.width() - self.width() - 8)), at.y())
        self.show()
        self.raise_()
        self.setFocus()

    def _show(self) -> None:
        options = self.editor.now.project.options
        if options == self._shown:
            return
        self._shown = options
        while (item := self._grid.takeAt(0)) is not None:
            if (part := item.widget()) is not None:
                part.hide()
                part.deleteLater()  # the edit may come from one of them
        for column, title in enumerate(
            ("option of the player", "size, %", "flashing", "colours, each with its replacement")
        ):
            if options:
                self._grid.addWidget(text_label(title, size="small"), 0, column)
        self.fields = [self._line(number, option) for number, option in enumerate(options)]
        if not options:
            hint = "Variants that players may choose, such as large text, calm, or other colours."
            self._grid.addWidget(text_label(hint, size="small"), 0, 0, 1, 5)
        row = len(options) + 1
        self._grid.addWidget(Link("+ option", self._add, bold=True), row, 0)
        self._grid.addWidget(Link("done", self.close_it, bold=True), row, 4)
        self.adjustSize()

    def _line(self, number: int, option: PlayerOption) -> dict[str, QWidget]:
        name = Field(f"name of option {number + 1}", 150)
        name.show_text(option.name)
        name.taken.connect(partial(self._rename, number))
        scale = NumberField(f"size of option {number + 1}", 56, SCALE, self.editor.show_error)
        scale.show_text(f"{option.scale * 100:g}")
        scale.entered.connect(lambda percent: self._set(number, "size", scale=percent / 100))
        flash = Choice(f"flashing of option {number + 1}", [FLASHES, CALM])
        flash.show_value(FLASHES if option.flash else CALM)
        flash.taken.connect(lambda word: self._set(number, "flashing", flash=word == FLASHES))
        colours = Field(f"colours of option {number + 1}", 250)
        colours.show_text(", ".join(f"{old} {new}" for old, new in option.colours.items()))
        colours.setPlaceholderText("#c7473c #0072b2, …")
        colours.taken.connect(partial(self._recolour, number))
        away = Link("×", partial(self._remove, number))
        away.setToolTip(f"Removes the option {option.name}")
        parts: dict[str, QWidget] = {"name": name, "scale": scale, "flash": flash, "colours": colours}
        for column, part in enumerate((*parts.values(), away)):
            self._grid.addWidget(part, number + 1, column)
        for part in (name, scale, colours):
            part.exited.connect(self.setFocus)
        return parts

    def _add(self) -> None:
        options = self.editor.now.project.options
        names, number = {option.name for option in options}, len(options) + 1
        while f"option {number}" in names:
            number += 1
        self._edit("add an option", (*options, PlayerOption(name=f"option {number}")))
        field = self.fields[-1]["name"]
        field.setFocus()
        assert isinstance(field, Field)
        field.selectAll()

    def _rename(self, number: int, text: str) -> None:
        options, name = self.editor.now.project.options, " ".join(text.split())
        others = {option.name for i, option in enumerate(options) if i != number}
        if not 0 < len(name) <= MAX_LETTERS or name in others:
            self._refuse(number, "name", f"A name has 1 to {MAX_LETTERS} letters, and no two options share one")
            return
        shown = self.editor.now.bound.option == options[number].name
        self._set(number, "name", name=name)
        if shown:
            self.editor.do(show_with, name)

    def _recolour(self, number: int, text: str) -> None:
        found = HEX.findall(text)
        if len(found) % 2 or re.sub(r"[\s,;→]+", "", HEX.sub("", text)):
            self._refuse(
                number, "colours", "Colours are written in pairs, such as #c7473c #0072b2: the first becomes the second"
            )
            return
        self._set(number, "colours", colours=dict(zip(found[::2], found[1::2], strict=True)))

    def _refuse(self, number: int, name: str, why: str) -> None:
        field = self.fields[number][name]
        assert isinstance(field, Field)
        field.mark(True)
        self.editor.say(why, error=True)

    def _set(self, number: int, what: str, **changes: object) -> None:
        options = self.editor.now.project.options
        changed = tuple(replace(one, **changes) if i == number else one for i, one in enumerate(options))
        self._edit(f"{what} of {changed[number].name}", changed)

    def _remove(self, number: int) -> None:
        options = self.editor.now.project.options
        self._edit(f"remove {options[number].name}", tuple(one for i, one in enumerate(options) if i != number))

    def _edit(self, label: str, options: tuple[PlayerOption, ...]) -> None:
        self.editor.do(seal)
        self.editor.do(edit, replace(self.editor.now.project, options=options), label)
        self._show()
