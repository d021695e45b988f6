"""Edit a glyph sheet in a popup: detect its cells, show them, and assign characters."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from avrin.app.bind_desk.popups.whole_picture import PictureEdit, WholePicture
from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.number_field import NumberField
from avrin.app.controls.theme import font, theme
from avrin.app.services.editor import Editor
from avrin.binding.missing_glyphs import unwritten
from avrin.editor.edits import seal
from avrin.edits.typed import NumberInput
from avrin.project.project import Json
from avrin.render.cells import cells_in, ink_of, usual_characters

__all__ = ["SheetEdit"]

CELL_SIDE = NumberInput("a number of pixels", "16", low=0.01, high=4096)
UNTOLD = "\ufffd"  # for a cell without a character
MAX_CHARACTERS = 400  # characters, and cells per row
PER_ROW = NumberInput("a number of cells", "10", low=0, high=MAX_CHARACTERS, whole=True, empty=0)


class _Cells(WholePicture):
    """The picture below its grid. typed: the number of a cell, and its new character."""

    typed = Signal(int, str)

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.cell = (16.0, 16.0)
        self.columns = 0
        self.characters = ""
        self.at = -1

    def grid(self) -> tuple[int, int]:
        """Return the number of columns and rows."""
        return int(self.image.width() // self.cell[0]), int(self.image.height() // self.cell[1])

    def rect_of(self, number: int) -> QRectF:
        """Return the rectangle of a cell."""
        row, column = divmod(number, max(1, self.columns))
        wide, high, area = self.cell[0] * self.unit(), self.cell[1] * self.unit(), self.area()
        return QRectF(area.x() + column * wide, area.y() + row * high, wide, high)

    def count(self) -> int:
        """Return the number of cells to assign."""
        across, down = self.grid()
        return min(MAX_CHARACTERS, down * self.columns if self.columns <= across else 0)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        numbers = range(self.count())
        self.at = next((n for n in numbers if self.rect_of(n).contains(event.position())), -1)
        self.setFocus()
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -self.columns, Qt.Key.Key_Down: self.columns,
            Qt.Key.Key_Backspace: -1,
        }  # fmt: skip
        step, text = steps.get(Qt.Key(event.key())), event.text()
        if step is not None and self.count():
            self.at = min(max(0, self.at + step), self.count() - 1)
            self.update()
        elif len(text) == 1 and text.isprintable() and 0 <= self.at < self.count():
            number, self.at = self.at, min(self.at + 1, self.count() - 1)
            self.typed.emit(number, text)
        else:
            super().keyPressEvent(event)

    def paint_parts(self, painter: QPainter) -> None:
        t = theme()
        painter.setFont(font("small", True))
        for number in range(self.count()):
            rect = self.rect_of(number)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(t.accent if number == self.at else t.line, 2 if number == self.at else 1))
            painter.drawRect(rect)
            told = self.characters[number : number + 1]
            if told and told != UNTOLD:
                label = QRectF(rect.right() - 15, rect.bottom() - 15, 14, 14)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(t.raised)
                painter.drawRoundedRect(label, 2, 2)
                painter.setPen(t.ink)
                painter.drawText(label, Qt.AlignmentFlag.AlignCenter, "␣" if told == " " else told)


class SheetEdit(PictureEdit):
    """Opened for a sheet whose settings do not fit, it detects the cells itself."""

    def __init__(self, editor: Editor, box_of: Callable[[str], QRectF], parent: QWidget) -> None:
        super().__init__(editor, box_of, parent)
        self.cells = _Cells()
        self.cells.typed.connect(self._tell)
        self.wide, self.high = (
            NumberField(f"{side} of a cell", 48, CELL_SIDE, editor.show_error) for side in ("width", "height")
        )
        self.per_row = NumberField("cells in a row", 48, PER_ROW, editor.show_error)
        self.characters = Field("characters", 300)
        for field in (self.wide, self.high, self.per_row):
            field.entered.connect(self._sized)
        self.characters.taken.connect(
            lambda text: self._edit_sheet("characters", characters=text[:MAX_CHARACTERS]) if text else None
        )
        for control in (self.wide, self.high, self.per_row, self.characters):
            control.exited.connect(self.setFocus)
        self.missing = text_label("", "critical", "small", wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 12, 10)
        column.setSpacing(8)
        column.addWidget(text_label("Press a cell and type its character; each key moves to the next", size="small"))
        column.addWidget(self.cells)
        for parts in (
            (text_label("a cell", size="small"), self.wide, text_label("×", size="small"), self.high,
             text_label("in a row", size="small"), self.per_row, None, Link("find the cells", self.find_cells, bold=True)),
            (text_label("characters", size="small"), self.characters, None, Link("done", self.close_it, bold=True)),
        ):  # fmt: skip
            row = QHBoxLayout()
            row.setSpacing(6)
            for part in parts:
                if part is None:
                    row.addStretch(1)
                else:
                    row.addWidget(part)
            column.addLayout(row)
        column.addWidget(self.missing)

    @property
    def _face(self) -> dict[str, Any]:
        face = self.widget.options.get("face") if self.widget is not None else None
        return dict(face) if isinstance(face, dict) else {}

    def open_for(self, ident: str) -> None:
        super().open_for(ident)
        if not self.cells.image.isNull() and not self.cells.count():
            self.find_cells()

    def show_it(self) -> None:
        face, cells = self._face, self.cells
        if not face:
            self.close_it()
            return
        cells.show_picture(self.file(str(face.get("picture", ""))))
        wide, high = (float(side) for side in face["cell"])
        cells.cell, cells.characters = (wide, high), str(face["characters"])
        cells.columns = int(face.get("per_row", 0)) or len(cells.characters)
        self.wide.show_text(f"{wide:g}")
        self.high.show_text(f"{high:g}")
        self.per_row.show_text(str(face.get("per_row", 0) or ""))
        self.characters.show_text(cells.characters)
        lacks = unwritten(self.editor.now.tracks, self.editor.now.bound.widgets[self.ident])
        self.missing.setText(f"The sheet has no glyph for {'  '.join(lacks)}" if lacks else "")
        self.missing.setVisible(bool(lacks))
        cells.update()

    def find_cells(self) -> None:
        """Detect the cells in the picture, and guess their characters if none are set."""
        path = self.file(str(self._face.get("picture", "")))
        ink = ink_of(str(path)) if path is not None else None
        found = cells_in(ink) if ink is not None else None
        if found is None:
            why = (
                "There are no gaps between the characters of this picture"
                if ink is not None
                else "It is not a PNG picture"
            )
            self.editor.say(f"{why}.  Enter the size of a cell", error=True)
            return
        said = str(self._face.get("characters", ""))
        characters = said if len(said) == found.filled and said != usual_characters(found) else usual_characters(found)
        self.editor.do(seal)
        per_row = found.columns if found.rows > 1 else 0
        self._edit_sheet("cells", cell=list(found.size), per_row=per_row, characters=characters)
        self.editor.say(
            f"{found.columns} × {found.rows} cells of {found.size[0]} × {found.size[1]} pixels, {found.filled} with a glyph"
        )

    def _sized(self, _number: float) -> None:
        wide, high, per_row = self.wide.read(), self.high.read(), self.per_row.read()
        if wide is not None and high is not None and per_row is not None:
            self._edit_sheet("cells", cell=[wide, high], per_row=int(per_row))

    def _tell(self, number: int, character: str) -> None:
        told = self.cells.characters.ljust(number + 1, UNTOLD)
        per_row = self._face.get("per_row", 0) or len(self.cells.characters)
        self._edit_sheet("characters", characters=told[:number] + character + told[number + 1 :], per_row=per_row)

    def _edit_sheet(self, what: str, **fields: Json) -> None:
        if self.widget is not None:
            face = {**self._face, **fields}
            if not face.get("per_row"):
                face.pop("per_row", None)
            self.become(what, options={**self.widget.options, "face": face})
