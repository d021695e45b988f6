"""Fields for a kind's options, or a widget's look, generated from their declarations: choices, numbers, texts."""

from __future__ import annotations

import functools
import re
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path
from typing import Any, Literal

import msgspec
from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFont, QIcon, QImage, QPixmap
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QMenu, QWidget

from avrin.app.bind_desk.card.colour_wish import ColourWish
from avrin.app.controls.choice import Choice
from avrin.app.controls.field import Field
from avrin.app.controls.file_dialogs import ask_file
from avrin.app.controls.key_link import KeyLink
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.menu import new_menu
from avrin.app.controls.swatch import Swatch
from avrin.app.controls.theme import font, theme
from avrin.app.painting.offscreen import painting
from avrin.app.painting.paint import draw_shapes
from avrin.app.services.editor import Editor
from avrin.editor.edits import set_widget
from avrin.edits.pictures import in_own_size
from avrin.edits.scalar_fields import (
    PAIR,
    SIDES,
    ScalarField,
    added,
    at_path,
    optional,
    part_of,
    put,
    scalar_fields,
)
from avrin.edits.typed import NUMBER, WHOLE, value_text
from avrin.errors import AvrinError
from avrin.kinds.assets import Asset, asset_shapes
from avrin.kinds.glyph_sheet import GlyphSheet
from avrin.kinds.icons import ICONS
from avrin.kinds.look import Colour, KeyName, Typeface
from avrin.kinds.proportions import own_size
from avrin.kinds.registry import KINDS
from avrin.project.project import Json, Widget
from avrin.render.installed import families
from avrin.storage.assets import FONT, PICTURE, FileSort, take_in

__all__ = ["StructFields"]

Which = Literal["options", "look"]
ACROSS = 2  # fields per row
FIELD_WIDTH_PX = 96  # pixels of a field
CHOICE = 22  # pixels of the button that opens an asset's choices
OTHER_HANDS = ("gamepad", "touch")  # devices whose keys cannot be captured here
THUMB = 18  # pixels of an icon in the menu
MOST_ART = 60  # pictures in a menu
NUMBERS = {PAIR: (2,), SIDES: (1, 4)}  # how many numbers a field takes
FILES = {Asset: PICTURE, Typeface: FONT}  # what sort of file a field takes


class StructFields(QWidget):
    """Fields for scalar options; rules in options have rows of their own on the card, as have the fields in `without`.

    keyed: the keys of fields with an entry per name. band: whose look it is, "" for outside all bands.
    """

    colour_wanted = Signal(object)  # a ColourWish
    parts_wanted = Signal(str)  # of the picture: "border" or "cells"

    def __init__(
        self, editor: Editor, ident: str, which: Which, struct: type[msgspec.Struct], without: Iterable[str] = (),
        keyed: Mapping[str, Sequence[str]] | None = None, band: str = "",
    ) -> None:  # fmt: skip
        super().__init__()
        self.editor = editor
        self.ident = ident
        self.which = which
        self.struct = struct
        self.band = band
        self.fields: dict[str, Field | Choice] = {}
        self.swatches: dict[str, Swatch] = {}
        self.names: dict[str, Field] = {}  # fields for further names
        self._leaves: dict[str, ScalarField] = {}
        self._files: dict[str, FileSort] = {}
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(4)
        for leaf in scalar_fields(struct, self._raw(), keyed or {}):
            if leaf.name in without:
                continue
            at = len(self._leaves)
            self._leaves[leaf.name] = leaf
            row, column = at // ACROSS, (at % ACROSS) * 2
            label = text_label(" ".join(leaf.path).replace("_", " "), size="small")
            grid.addWidget(label, row, column, Qt.AlignmentFlag.AlignVCenter)
            sort = FILES.get(leaf.type)
            if sort is not None:
                self._files[leaf.name] = sort
            part = self._part(leaf.name, leaf.kind)
            label.setBuddy(part)
            if sort is not None:
                part = self._with_choice(leaf.name, part)
            elif leaf.type == Colour:
                part = self._with_swatch(leaf.name, part)
            elif leaf.type == KeyName and leaf.path[-1] not in OTHER_HANDS:
                part = self._with_key(leaf.name, part)
            elif leaf.kind == SIDES:
                part = self._with_lines(leaf.name, part)
            grid.addWidget(part, row, column + 1)
        self._open = [name for name, keys in (keyed or {}).items() if "" in keys]
        self._add_parts(grid, struct)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(3, 1)
        self.refresh()

    def _add_parts(self, grid: QGridLayout, struct: type[msgspec.Struct]) -> None:
        """Add optional parts: a press adds or removes one."""
        names = optional(struct)
        if not names and not self._open:
            return
        row = QHBoxLayout()
        row.setSpacing(2)
        for name in names:
            there = isinstance(self._raw().get(name), Mapping)
            text = f"no {name}" if there else f"+ {name}"
            row.addWidget(Link(text, functools.partial(self._turn, name, not there), bold=True))
            if there and part_of(struct, name) is GlyphSheet:
                cells = Link("its cells …", functools.partial(self.parts_wanted.emit, "cells"), bold=True)
                cells.setToolTip("Find the cells in the picture and assign a character to each")
                row.addWidget(cells)
        for name in self._open:
            row.addWidget(Link(f"+ other {name}", functools.partial(self._ask_name, name), bold=True))
            field = self.names[name] = Field(f"whose {name}", FIELD_WIDTH_PX)
            field.setPlaceholderText(f"whose {name}")
            field.taken.connect(functools.partial(self._add_key, name))
            field.exited.connect(field.hide)
            field.hide()
            row.addWidget(field)
        row.addStretch(1)
        grid.addLayout(row, grid.rowCount(), 0, 1, 4)

    def _ask_name(self, name: str) -> None:
        self.names[name].show()
        self.names[name].setFocus()

    def _add_key(self, name: str, text: str) -> None:
        """Add an entry for a further name, to be edited."""
        raw, key = self._raw(), text.strip()
        known = raw.get(name)
        if key and (not isinstance(known, Mapping) or key not in known):
            first = next(iter(known.values()), "?") if isinstance(known, Mapping) else "?"
            self._set_value(name, {**raw, name: {**(known or {}), key: first}})

    def _turn(self, name: str, there: bool) -> None:
        raw = {key: value for key, value in self._raw().items() if key != name}
        if there:
            raw[name] = added(self.struct, name)
        self._set_value(name, raw)

    def __len__(self) -> int:
        return len(self._leaves) + len(optional(self.struct))

    def _part(self, name: str, kind: object) -> QWidget:
        if kind is bool or isinstance(kind, tuple):
            choice = Choice(f"{self.which}, {name}", kind if isinstance(kind, tuple) else (False, True))
            choice.taken.connect(lambda value: self._set(name, value))
            self.fields[name] = choice
            return choice
        beside = name in self._files or kind == SIDES or self._leaves[name].type == KeyName
        field = Field(f"{self.which}, {name}", FIELD_WIDTH_PX - CHOICE if beside else FIELD_WIDTH_PX)
        field.taken.connect(lambda text: self._taken(name, text))
        field.exited.connect(self.setFocus)
        self.fields[name] = field
        return field

    def _with_choice(self, name: str, part: QWidget) -> QWidget:
        """Add a menu of choices to an asset's field; files can be dropped on the field too."""
        link = Link("…", lambda: self.choices(name).popup(link.mapToGlobal(link.rect().bottomLeft())))
        link.setAccessibleName(f"choose {name}")
        link.setToolTip(
            "Icons, or a picture file" if self._files[name] is PICTURE else "Installed fonts, or a font file"
        )
        return _beside(part, link)

    def _with_lines(self, name: str, part: QWidget) -> QWidget:
        """Add a button to a border's field that opens the border editor."""
        link = Link("…", functools.partial(self.parts_wanted.emit, "border"))
        link.setAccessibleName(f"drag {name} in the picture")
        link.setToolTip("Drag the border's lines in the picture")
        return _beside(part, link)

    def _with_key(self, name: str, part: QWidget) -> QWidget:
        """Add a button to a key's field that captures the next key."""
        assert isinstance(part, Field)
        return _beside(part, KeyLink(part, lambda key: self._taken(name, key)))

    def _with_swatch(self, name: str, part: QWidget) -> QWidget:
        """Add a swatch to a colour's field that opens the chooser."""
        swatch = Swatch(name.replace("_", " "), lambda: self._wish(name))
        self.swatches[name] = swatch
        whole = QWidget()
        line = QHBoxLayout(whole)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(0)
        part.setFixedWidth(FIELD_WIDTH_PX - swatch.width())
        line.addWidget(swatch)
        line.addWidget(part)
        whole.setFixedWidth(FIELD_WIDTH_PX)
        return whole

    def _wish(self, name: str) -> None:
        def made(widget: Widget, colour: str) -> Widget:
            return self._with(widget, put(self._own_values(widget), self._leaf(name), colour))

        what = f"{name.replace('_', ' ')}{f' when {self.band}' if self.band else ''}"
        self.colour_wanted.emit(ColourWish(self.swatches[name], self.ident, what, str(self._value(name)), made))

    def choices(self, name: str) -> QMenu:
        """Return a menu of assets: built-in or installed ones, and a file, which is copied into the project's folder."""
        sort = self._files[name]
        menu = new_menu(self)
        if sort is FONT:
            menu.addAction("the bundled one", functools.partial(self._set, name, ""))
        for known in (*sorted(ICONS), *self._art()) if sort is PICTURE else families():
            action = menu.addAction(known, functools.partial(self._set, name, known))
            if sort is PICTURE:
                action.setIcon(self._thumb(known))
            else:
                action.setFont(QFont(known, font().pointSize()))
        menu.addSeparator()
        menu.addAction(f"A {sort.name} file…", lambda: self._ask(name))
        return menu

    def _art(self) -> list[str]:
        """Return pictures in the project's art folder."""
        found = sorted((self.editor.now.folder / PICTURE.folder).glob("*")) if self.editor.now.path is not None else []
        return [f"{PICTURE.folder}/{path.name}" for path in found if path.suffix.lower() in PICTURE.ends][:MOST_ART]

    def _thumb(self, asset: str) -> QIcon:
        """Return the thumbnail of an icon or a picture."""
        image = QImage(THUMB * 2, THUMB * 2, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(Qt.GlobalColor.transparent)
        tint = theme().ink.name() if asset in ICONS else ""
        shown = asset_shapes(asset, self.editor.now.folder, 0, 0, THUMB * 2, THUMB * 2, tint)
        with painting(image) as painter:
            draw_shapes(painter, list(shown))
        return QIcon(QPixmap.fromImage(image))

    def _ask(self, name: str) -> None:
        sort = self._files[name]
        ends = " ".join(f"*{end}" for end in sort.ends)
        told = f"{sort.name.capitalize()}s ({ends})"
        chosen = ask_file(self, f"A {sort.name}", self.editor.now.folder, told)
        if chosen is not None:
            self._taken(name, str(chosen))

    def _asset(self, text: str, sort: FileSort) -> str:
        """Return an asset typed, dropped or chosen. External files are copied. Raises AvrinError."""
        from PySide6.QtCore import QUrl  # late: 2 ms

        path = QUrl(text).toLocalFile() if text.startswith("file:") else text
        if not Path(path).is_absolute():
            return text
        if self.editor.now.path is None:
            raise AvrinError("the project has no folder for files yet", advice="Save it first")
        return take_in(Path(path), self.editor.now.folder, sort)

    def _raw(self) -> dict[str, Any]:
        return self._own_values(self.editor.now.project.widget(self.ident))

    def _own_values(self, widget: Widget) -> dict[str, Any]:
        """Return the widget's own values: of its options, its look, or its look in the band."""
        said = getattr(widget, self.which)
        if self.band:
            bands = said.get("bands")
            said = bands.get(self.band) if isinstance(bands, Mapping) else None
        return dict(said) if isinstance(said, Mapping) else {}

    def _with(self, widget: Widget, raw: Mapping[str, Any]) -> Widget:
        """Return the widget with other values there."""
        if not self.band:
            return replace(widget, **{self.which: dict(raw)})
        bands = widget.look.get("bands")
        others = {name: look for name, look in (bands or {}).items() if name != self.band}
        rest = {name: value for name, value in widget.look.items() if name != "bands"}
        bands = {**others, **({self.band: dict(raw)} if raw else {})}
        return replace(widget, look={**rest, **({"bands": bands} if bands else {})})

    def _leaf(self, name: str) -> ScalarField:
        """Return a field with its inherited value: from its style, and in a band from the look outside all bands."""
        leaf, widget = self._leaves[name], self.editor.now.project.widget(self.ident)
        if self.which == "options":
            return leaf
        usual = self.editor.now.project.styles.get(widget.style, {}).get(name, leaf.usual)
        if self.band:
            usual = widget.look.get(name, usual)
        return replace(leaf, usual=usual)

    def _value(self, name: str) -> Json:
        leaf = self._leaf(name)
        value = at_path(self._raw(), leaf.path)
        return leaf.usual if value is None else value

    def refresh(self) -> None:
        """Show current values; fields with invalid values are marked."""
        if all(widget.id != self.ident for widget in self.editor.now.project.widgets):
            return
        wrong = {
            step for place in self.editor.now.bound.errors if (place.widget, place.part) == (self.ident, self.which)
            for step in place.name.split(".")
        }  # fmt: skip
        for name, part in self.fields.items():
            value = self._value(name)
            if isinstance(part, Field):
                several = self._leaves[name].kind in (PAIR, SIDES) and isinstance(value, list)
                part.show_text(", ".join(map(value_text, value)) if several else value_text(value))
                part.mark(name in wrong)
                if name in self.swatches:
                    self.swatches[name].show_colour(str(value))
            else:
                part.show_value(value)

    def _taken(self, name: str, text: str) -> None:
        kind = self._leaves[name].kind
        value: Any = text.strip()
        if kind in (PAIR, SIDES):
            try:
                value = [float(part) for part in re.split(r"\s*[,;x×]\s*|\s+", value)]
                if len(value) not in NUMBERS[kind]:
                    raise ValueError
            except ValueError:
                example = "0, 2" if kind == PAIR else "12, or 12, 8, 12, 8 for left, top, right and bottom"
                self._refuse(name, f"'{text}' has the wrong number of values.  Write for example {example}")
                return
            value = value[0] if len(value) == 1 else value
        elif kind in (int, float):
            try:
                value = kind((WHOLE if kind is int else NUMBER).parse(text))
            except AvrinError as error:
                self._refuse(name, str(error))
                return
        elif name in self._files:
            try:
                value = self._asset(value, self._files[name])
            except AvrinError as error:
                self._refuse(name, str(error)[0].upper() + str(error)[1:])
                return
        self._set(name, value)

    def _refuse(self, name: str, why: str) -> None:
        part = self.fields[name]
        if isinstance(part, Field):
            part.mark(True)
        self.editor.say(why, error=True)

    def _set(self, name: str, value: Json) -> None:
        before, widget = self._value(name), self.editor.now.project.widget(self.ident)
        made = self._with(widget, put(self._raw(), self._leaf(name), value))
        if self.which == "options" and name == "asset" and before in ICONS and KINDS[widget.kind].has_proportions:
            size = own_size(str(self.editor.now.folder / value))  # a file brings its own size
            made = in_own_size(self.editor.now.project, made, size) if size is not None else made
        self.editor.do(set_widget, made, f"{name} of {widget.title}")

    def _set_value(self, name: str, raw: Mapping[str, Any]) -> None:
        widget = self.editor.now.project.widget(self.ident)
        self.editor.do(set_widget, self._with(widget, raw), f"{name} of {widget.title}")


def _beside(part: QWidget, link: Link) -> QWidget:
    """Return a field with a link at its right, as wide as a field alone."""
    link.setFixedWidth(CHOICE)
    whole = QWidget()
    line = QHBoxLayout(whole)
    line.setContentsMargins(0, 0, 0, 0)
    line.setSpacing(0)
    line.addWidget(part)
    line.addWidget(link)
    whole.setFixedWidth(FIELD_WIDTH_PX)
    return whole
