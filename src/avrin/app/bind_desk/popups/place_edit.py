"""Edit a widget's name and position in a popup: offset, size, anchor and pivot."""

from __future__ import annotations

import re
from functools import partial
from typing import Literal

from msgspec.structs import replace
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from avrin.app.bind_desk.picture.hud_view import HudView
from avrin.app.controls.choice import Choice
from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.nine_dots import NineDots
from avrin.app.controls.number_field import NumberField
from avrin.app.controls.popup import Popup
from avrin.app.services.editor import Editor
from avrin.binding.places import RulePlace
from avrin.editor.arranging import rename_widget, repeat, set_title
from avrin.editor.changes import Change
from avrin.editor.edits import edit, seal, set_widget
from avrin.edits.identity import id_like
from avrin.edits.placing import put_at
from avrin.edits.typed import PIXELS
from avrin.errors import AvrinError
from avrin.project.project import Anchor, Follow

__all__ = ["PlaceEdit"]

BESIDE = 14  # pixels from a widget to the popup
GRID = re.compile(r"(\d{1,3})\s*[x×*]\s*(\d{1,3})")  # columns, rows

Axis = Literal["x", "y"]
NUMBERS: dict[Literal["x", "y", "wide", "high"], str] = {"x": "x", "y": "y", "wide": "width", "high": "height"}


class PlaceEdit(Popup):
    """Each field is one edit."""

    def __init__(self, editor: Editor, hud: HudView, parent: QWidget) -> None:
        super().__init__(parent)
        self.editor = editor
        self._hud = hud
        self.ident = ""
        self.title = Field("title", 236)
        self.title.taken.connect(self._titled)
        self.name = Field("id", 136)
        self.name.taken.connect(self._rename)
        self.follows = Link("from its title", self._id_follows, bold=True)
        self.follows.setToolTip("Derives the id from the title; rules and tracks follow")
        self.numbers = {key: NumberField(said, 96, PIXELS, editor.show_error) for key, said in NUMBERS.items()}
        for key, number_field in self.numbers.items():
            number_field.entered.connect(partial(self._placed, key))
        self.rules: dict[Axis, Field] = {"x": Field("follows x", 96), "y": Field("follows y", 96)}
        for axis, field in self.rules.items():
            field.taken.connect(partial(self._followed, axis))
            field.setPlaceholderText("nothing")
            field.setToolTip("A rule for the followed position, in reference pixels from the screen's corner")
        self.step = tuple(NumberField(f"step {way}", 96, PIXELS, editor.show_error) for way in ("across", "down"))
        for direction, number_field in enumerate(self.step):
            number_field.entered.connect(partial(self._stepped, direction))
            number_field.setToolTip("From one copy of a repeated widget to the next, in reference pixels")
        self.hold = Choice("kept on the screen", ("anywhere", "on the screen"))
        self.arrow = Choice("arrow", ("no arrow", "an arrow"))
        self.hold.taken.connect(lambda choice: self._edit_follow(hold=choice == "on the screen"))
        self.arrow.taken.connect(lambda said: self._edit_follow(arrow=said == "an arrow"))
        for part in (self.title, self.name, *self.numbers.values(), *self.rules.values(), *self.step):
            part.exited.connect(self.setFocus)
        self.copies = Field("grid of copies", 96)
        self.copies.setPlaceholderText("4 × 4")
        self.copies.taken.connect(self._repeated)
        self.copies.exited.connect(self.setFocus)
        self.anchor, self.pivot = NineDots("anchor: the screen's point"), NineDots("pivot: the widget's point")
        self.anchor.taken.connect(lambda point: self._hung("anchor", point))
        self.pivot.taken.connect(lambda point: self._hung("pivot", point))
        self._build()
        editor.follow("popups", self)

    def on_change(self, change: Change) -> None:
        """Show the place; close with another selection."""
        if change.of("tracks"):
            self._show()
        if change.of("selection"):
            self._chosen()

    def _build(self) -> None:
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(6)
        x, y, wide, high = self.numbers.values()
        lines: tuple[tuple[str, QWidget, str, QWidget], ...] = (
            ("x", x, "y", y), ("width", wide, "height", high), ("follows x", self.rules["x"], "y", self.rules["y"]),
            ("fixed", self.hold, "with", self.arrow),
            ("step across", self.step[0], "down", self.step[1]),
            ("copies", self.copies, "in a grid", Link("done", self.close_it, bold=True)),
        )  # fmt: skip
        grid.addWidget(text_label("name", size="small"), 0, 0)
        grid.addWidget(self.title, 0, 1, 1, 3)
        grid.addWidget(text_label("id", size="small"), 1, 0)
        grid.addWidget(self.name, 1, 1, 1, 2)
        grid.addWidget(self.follows, 1, 3)
        for number, (left, first, right, second) in enumerate(lines):
            at = number + 2 + (number > 1)
            grid.addWidget(text_label(left, size="small"), at, 0)
            grid.addWidget(first, at, 1, Qt.AlignmentFlag.AlignLeft)
            grid.addWidget(text_label(right, size="small"), at, 2)
            grid.addWidget(second, at, 3, Qt.AlignmentFlag.AlignLeft)
        hangs = text_label("anchor", size="small")
        grid.addWidget(hangs, 4, 0, Qt.AlignmentFlag.AlignTop)
        grid.addLayout(self._dots(), 4, 1, 1, 3)
        grid.setContentsMargins(14, 12, 14, 10)
        self.setLayout(grid)

    def _dots(self) -> QHBoxLayout:
        dots = QHBoxLayout()
        dots.setSpacing(18)
        for said, part in (("of the screen", self.anchor), ("of the widget", self.pivot)):
            under = QVBoxLayout()
            under.setSpacing(0)
            under.addWidget(part)
            under.addWidget(text_label(said, size="small"))
            dots.addLayout(under)
        dots.addStretch(1)
        return dots

    def open_for(self, ident: str, *, title: bool = False) -> None:
        """Edit a widget, next to its box, with the caret in its x, or its title."""
        self.ident = ident
        self._show()
        self.adjustSize()
        self._stand()
        self.show()
        self.raise_()
        first = self.title if title else self.numbers["x"]
        first.setFocus()
        first.selectAll()

    def close_it(self) -> None:
        super().close_it()
        self._hud.setFocus()

    def _stand(self) -> None:
        """Move next to, above or below the widget: the first position that is fully visible and does not cover it."""
        parent = self.parentWidget()
        assert parent is not None
        box = self._hud.box_of(self.ident).toAlignedRect()
        box.moveTopLeft(self._hud.mapTo(parent, box.topLeft()))
        clear = box.adjusted(-BESIDE, -BESIDE, BESIDE, BESIDE)
        picture = QRect(self._hud.mapTo(parent, QPoint(0, 0)), self._hud.size())
        for area in (picture.adjusted(4, 4, -4, -4), parent.rect().adjusted(8, 8, -8, -8)):
            high = max(area.top(), min(clear.top(), area.bottom() - self.height()))
            across = max(area.left(), min(clear.left(), area.right() - self.width()))
            for at in (
                QPoint(clear.left() - self.width(), high), QPoint(clear.right(), high),
                QPoint(across, clear.bottom()), QPoint(across, clear.top() - self.height()),
            ):  # fmt: skip
                if area.contains(QRect(at, self.size())):
                    self.move(at)
                    return
        self.move(across, high)

    def _chosen(self) -> None:
        if self.editor.now.chosen != (self.ident,):
            self.hide()

    def _show(self) -> None:
        widget = next((one for one in self.editor.now.project.widgets if one.id == self.ident), None)
        if widget is None:
            self.hide()
            return
        place = widget.place
        self.title.show_text(widget.title)
        self.name.show_text(widget.id)
        for field, number in zip(self.numbers.values(), (*place.offset, *place.size), strict=True):
            field.show_text(f"{number:.2f}".rstrip("0").rstrip("."))
        follow, errors = place.follow, self.editor.now.bound.errors
        for axis, rule in self.rules.items():
            rule.show_text(getattr(follow, axis) if follow is not None else "")
            rule.mark(RulePlace("widget", self.ident, "follow", axis) in errors)
        for choice, value in (
            (self.hold, follow is not None and follow.hold),
            (self.arrow, follow is not None and follow.arrow),
        ):
            choice.setCurrentIndex(int(value))
            choice.setEnabled(follow is not None)
        for field, number in zip(self.step, place.step, strict=True):
            field.show_text(f"{number:g}")
            field.setEnabled(bool(widget.repeat))
        self.copies.show_text("")
        self.anchor.show_point(place.anchor)
        self.pivot.show_point(place.pivot)

    def _titled(self, text: str) -> None:
        try:
            self.editor.do(set_title, self.ident, text)
        except AvrinError as error:
            self.title.mark(True)
            self.editor.say(str(error), error=True)
        else:
            self._show()

    def _id_follows(self) -> None:
        self._rename(id_like(self.editor.now.project, self.ident))

    def _rename(self, text: str) -> None:
        was, self.ident = self.ident, text
        try:
            self.editor.do(rename_widget, was, text)
        except AvrinError as error:
            self.ident = was
            self.name.mark(True)
            self.editor.say(str(error), error=True)
            return
        self.ident = next(iter(self.editor.now.chosen), was)
        self._show()

    def _placed(self, key: Literal["x", "y", "wide", "high"], number: float) -> None:
        editor = self.editor
        made = put_at(editor.now.project, self.ident, editor.now.view.screen, **{key: number})  # type: ignore[arg-type]
        editor.do(edit, made, f"{NUMBERS[key]} of {editor.now.project.widget(self.ident).title}")
        self._show()  # values out of range are shown as clamped

    def _followed(self, axis: Axis, text: str) -> None:
        """Set what its position follows on one axis; empty restores the anchor."""
        editor = self.editor
        widget = editor.now.project.widget(self.ident)
        rules = {one: field.text().strip() for one, field in self.rules.items()}
        follow = widget.place.follow
        if not text.strip():
            follow = None
        else:
            follow = replace(
                follow or Follow(x="0", y="0", hold=True), **{one: rule or "0" for one, rule in rules.items()}
            )
        editor.do(seal)
        editor.do(
            set_widget, replace(widget, place=replace(widget.place, follow=follow)), f"follow setting of {widget.title}"
        )
        self._show()
        error = editor.now.bound.errors.get(RulePlace("widget", self.ident, "follow", axis))
        if text.strip() and error is not None:
            editor.say(str(error), error=True)

    def _stepped(self, direction: int, number: float) -> None:
        """Set the step from one copy to the next."""
        widget = self.editor.now.project.widget(self.ident)
        step = (number, widget.place.step[1]) if direction == 0 else (widget.place.step[0], number)
        self.editor.do(set_widget, replace(widget, place=replace(widget.place, step=step)), f"step of {widget.title}")

    def _edit_follow(self, **fields: bool) -> None:
        widget = self.editor.now.project.widget(self.ident)
        if widget.place.follow is not None:
            follow = replace(widget.place.follow, **fields)
            self.editor.do(
                set_widget,
                replace(widget, place=replace(widget.place, follow=follow)),
                f"follow setting of {widget.title}",
            )

    def _repeated(self, text: str) -> None:
        found = GRID.fullmatch(text.strip())
        try:
            if found is None:
                raise AvrinError(f"'{text}' is not a valid grid of copies", advice="Write for example 4 × 4")
            self.editor.do(repeat, int(found[1]), int(found[2]))
        except AvrinError as error:
            self.copies.mark(True)
            self.editor.say(str(error), error=True)

    def _hung(self, which: Literal["anchor", "pivot"], point: Anchor) -> None:
        editor = self.editor
        made = put_at(editor.now.project, self.ident, editor.now.view.screen, **{which: point})  # type: ignore[arg-type]
        editor.do(edit, made, f"{which} of {editor.now.project.widget(self.ident).title}")
