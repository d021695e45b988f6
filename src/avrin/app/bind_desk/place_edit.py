"""A widget's name and exact place, edited in a popup at its tag: offset, size, and the points it hangs from and by."""

from __future__ import annotations

import math
import re
from functools import partial
from typing import Literal

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from avrin.app.bind_desk.picture import HudView
from avrin.app.controls.field import Field
from avrin.app.controls.inked import inked
from avrin.app.controls.link import Link
from avrin.app.controls.nine_dots import NineDots
from avrin.app.controls.popup import Popup, row
from avrin.app.session.session import Session
from avrin.arrange import put_at
from avrin.model import Anchor, AvrinError

__all__ = ["PlaceEdit"]

GRID = re.compile(r"(\d{1,3})\s*[x×*]\s*(\d{1,3})")  # across, down

NUMBERS: dict[Literal["x", "y", "wide", "high"], str] = {"x": "x", "y": "y", "wide": "width", "high": "height"}


class PlaceEdit(Popup):
    """Each field is an edit of its own."""

    def __init__(self, session: Session, hud: HudView, parent: QWidget) -> None:
        super().__init__(parent)
        self.session = session
        self._hud = hud
        self.ident = ""
        self.name = Field("name", 190)
        self.name.taken.connect(self._named)
        self.numbers = {key: Field(said, 74) for key, said in NUMBERS.items()}
        for key, field in self.numbers.items():
            field.taken.connect(partial(self._placed, key))
        for part in (self.name, *self.numbers.values()):
            part.left.connect(self.setFocus)
        self.copies = Field("grid of copies", 74)
        self.copies.setPlaceholderText("4 × 4")
        self.copies.taken.connect(self._repeated)
        self.copies.left.connect(self.setFocus)
        self.anchor, self.pivot = NineDots("hangs from this point of the screen"), NineDots("hangs by this point of it")
        self.anchor.taken.connect(lambda point: self._hung("anchor", point))
        self.pivot.taken.connect(lambda point: self._hung("pivot", point))
        self._build()
        session.project_changed.connect(self._show)
        session.connect_selection(self._chosen)

    def _build(self) -> None:
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(6)
        for at, (key, said) in enumerate(NUMBERS.items()):
            line, column = divmod(at, 2)
            grid.addWidget(inked(said, size="small"), line, column * 2)
            grid.addWidget(self.numbers[key], line, column * 2 + 1)
        dots = QHBoxLayout()
        dots.setSpacing(18)
        for said, part in (("of the screen", self.anchor), ("of the widget", self.pivot)):
            under = QVBoxLayout()
            under.setSpacing(0)
            under.addWidget(part)
            under.addWidget(inked(said, size="small"))
            dots.addLayout(under)
        dots.addStretch(1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(14, 12, 14, 10)
        whole.setSpacing(8)
        whole.addLayout(row("called", self.name, None))
        whole.addLayout(grid)
        whole.addWidget(inked("it hangs from this point"))
        whole.addLayout(dots)
        whole.addLayout(row("copies in a grid of", self.copies, None, Link("done", self.close_it, bold=True)))

    def open_for(self, ident: str) -> None:
        """Edit a widget, beside its box; the caret stands in its x."""
        self.ident = ident
        self._show()
        self.adjustSize()
        self._stand()
        self.show()
        self.raise_()
        self.numbers["x"].setFocus()
        self.numbers["x"].selectAll()

    def close_it(self) -> None:
        super().close_it()
        self._hud.setFocus()

    def _stand(self) -> None:
        """Under the tag, or over it, where all of it is seen."""
        parent, tag = self.parentWidget(), self._hud.tag_rect
        assert parent is not None
        at = QPoint(20, 20)
        if tag is not None:
            corner = self._hud.mapTo(parent, tag.bottomLeft().toPoint())
            at = corner + QPoint(0, 6)
            if at.y() + self.height() > parent.height():
                at.setY(corner.y() - round(tag.height()) - 6 - self.height())
        self.move(
            max(8, min(at.x(), parent.width() - self.width() - 8)), max(8, min(at.y(), parent.height() - self.height()))
        )

    def _chosen(self) -> None:
        if self.session.arranging.chosen != (self.ident,):
            self.hide()

    def _show(self) -> None:
        widget = next((one for one in self.session.project.widgets if one.id == self.ident), None)
        if widget is None:
            self.hide()
            return
        place = widget.place
        self.name.show_text(widget.id)
        for field, number in zip(self.numbers.values(), (*place.offset, *place.size), strict=True):
            field.show_text(f"{number:.2f}".rstrip("0").rstrip("."))
        self.copies.show_text("")
        self.anchor.show_point(place.anchor)
        self.pivot.show_point(place.pivot)

    def _named(self, text: str) -> None:
        was, self.ident = self.ident, text
        try:
            self.session.arranging.rename(was, text)
        except AvrinError as error:
            self.ident = was
            self.name.mark(True)
            self.session.said.emit(str(error), True)
            return
        self.ident = next(iter(self.session.arranging.chosen), was)
        self._show()

    def _placed(self, key: Literal["x", "y", "wide", "high"], text: str) -> None:
        try:
            number = float(text.replace(",", "."))
            if math.isnan(number):
                raise ValueError
        except ValueError:
            self.numbers[key].mark(True)
            self.session.said.emit(f"'{text}' is no number of pixels.  Write for example 24", True)
            return
        session = self.session
        made = put_at(session.project, self.ident, session.screen, **{key: number})  # type: ignore[arg-type]
        session.edit(made, f"{NUMBERS[key]} of {session.project.widget(self.ident).title}")
        self._show()  # what was out of all reason is shown as it was taken

    def _repeated(self, text: str) -> None:
        found = GRID.fullmatch(text.strip())
        try:
            if found is None:
                raise AvrinError(f"'{text}' is no grid of copies", advice="Write for example 4 × 4")
            self.session.arranging.repeat(int(found[1]), int(found[2]))
        except AvrinError as error:
            self.copies.mark(True)
            self.session.said.emit(str(error), True)

    def _hung(self, which: Literal["anchor", "pivot"], point: Anchor) -> None:
        session = self.session
        made = put_at(session.project, self.ident, session.screen, **{which: point})  # type: ignore[arg-type]
        session.edit(made, f"{which} of {session.project.widget(self.ident).title}")
