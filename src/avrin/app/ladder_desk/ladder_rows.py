"""The rows of the ladder, painted from their sheets; cells, edges and links respond to the mouse."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from avrin.app.controls.assistive import Assisted, Part, tell_chosen
from avrin.app.controls.keys import ARROWS, KeepsKeys
from avrin.app.controls.theme import font, theme
from avrin.app.painting.paint import draw_shapes
from avrin.app.services.editor import Editor
from avrin.binding.bound import Bound
from avrin.editor.edits import seal
from avrin.ladder.rows import Cells, Row
from avrin.ladder.samples import Sample
from avrin.ladder.sheet import Link, Paper, RowSheet, interval_words, percent, row_sheet
from avrin.render.layout import Rect
from avrin.render.values import clock, format_value

__all__ = ["LadderRows", "paper"]

MOST_KEPT = 200


def paper(ground: str = "") -> Paper:
    """Return the window's colours for sheets. ground: behind widgets, "#rrggbb"."""
    t = theme()
    names = ("desk", "line", "gutter", "ink", "second", "third", "accent", "soft")
    colours = {name: getattr(t, name).name() for name in names}
    return Paper(**colours, missing=t.missing_line.name(), under=ground or t.under.name())


class LadderRows(KeepsKeys, Assisted, QWidget):
    """A list of rows. Arrow keys move between cells, Enter presses one."""

    kept_keys = ARROWS
    cell_pressed = Signal(object, object)  # Row, Rung
    link_pressed = Signal(object, object)  # Row, Link
    edge_dragged = Signal(object, object, float)  # Row, Cells, the edge's new value

    def __init__(self, editor: Editor) -> None:
        super().__init__()
        self.editor = editor
        self.rows: list[Row] = []
        self.differ: set[int] = set()  # cells that looked different before, by identity
        self._otherwise = ""
        self._bound = editor.now.bound
        self._sheets: list[tuple[float, RowSheet]] = []  # each with its upper edge
        self._chosen: tuple[int, int] | None = None  # a row and a cell of it
        self._drag: tuple[Row, Cells, float] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("ladder")

    def assisted_parts(self) -> list[Part]:
        """Return each cell with its widget, value and recorded share; a press goes there or pins the value."""
        return [
            Part(
                f"{row.widget.widget.title}, {row.driver} {'now ' if sample is row.now else ''}{format_value(sample.value)}",
                QRectF(*rect).translated(0, y),
                value=self._recorded_text(sample) + self._since(sample), chosen=self._chosen == (i, k),
                press=partial(self.cell_pressed.emit, row, sample),
            )
            for i, (row, (y, sheet)) in enumerate(zip(self.rows, self._sheets, strict=True))
            for k, (rect, sample) in enumerate(sheet.cells)
        ]  # fmt: skip

    def _since(self, sample: Sample) -> str:
        """Return the note for a cell that looked different before."""
        return ", differs" if id(sample) in self.differ else ""

    def show_rows(self, rows: list[Row], bound: Bound, otherwise: str) -> None:
        """Show rows with their bound project, or a sentence if there are none."""
        self.rows, self._bound, self._otherwise = rows, bound, otherwise
        self._lay_out()

    def _lay_out(self) -> None:
        self._sheets, y = [], 0.0
        for row in self.rows:
            sheet = row_sheet(row, self._bound, self.width(), paper(self.editor.now.ground), pressed=True)
            self._sheets.append((y, sheet))
            y += sheet.height + 1
        self.setFixedHeight(max(120, round(y)))
        self.update()

    def resizeEvent(self, _event: object) -> None:
        self._lay_out()

    def sizeHint(self) -> QSize:
        return QSize(1240, round(sum(sheet.height + 1 for _, sheet in self._sheets)))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        if not self.rows:
            painter.setFont(font("large"))
            painter.setPen(theme().second)
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self._otherwise)
        for i, (y, sheet) in enumerate(self._sheets):
            if y > event.rect().bottom() or y + sheet.height < event.rect().top():
                continue
            painter.save()
            painter.translate(0, y)
            draw_shapes(painter, sheet.shapes)
            for rect, sample in sheet.cells:
                if id(sample) in self.differ:
                    painter.setPen(QPen(theme().desk, 1.5))
                    painter.setBrush(theme().accent)
                    painter.drawEllipse(QPointF(rect.x + rect.width - 1, rect.y + 1), 5, 5)
            if self._chosen is not None and self._chosen[0] == i and self.hasFocus():
                rect = sheet.cells[self._chosen[1]][0]
                painter.setPen(QPen(theme().ink, 1.2, Qt.PenStyle.DotLine))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(QRectF(*rect).adjusted(-4, -4, 4, 4), 7, 7)
            painter.restore()
            painter.setPen(QPen(theme().line, 1))
            painter.drawLine(QPointF(0, y + sheet.height + 0.5), QPointF(self.width(), y + sheet.height + 0.5))

    # -- input ------------------------------------------------------------------------------------------------------

    def _row_at(self, point: QPointF) -> tuple[int, QPointF] | None:
        for i, (y, sheet) in enumerate(self._sheets):
            if y <= point.y() < y + sheet.height:
                return i, QPointF(point.x(), point.y() - y)
        return None

    def _cell_at(self, point: QPointF) -> tuple[int, int] | None:
        found = self._row_at(point)
        if found is None:
            return None
        cells = self._sheets[found[0]][1].cells
        return next(((found[0], k) for k, (rect, _) in enumerate(cells) if _inside(rect, found[1], 40)), None)

    def _link_at(self, point: QPointF) -> tuple[Row, Link] | None:
        found = self._row_at(point)
        if found is None:
            return None
        links = self._sheets[found[0]][1].links
        return next(((self.rows[found[0]], link) for rect, link in links if _inside(rect, found[1])), None)

    def _edge_at(self, point: QPointF) -> tuple[Row, Cells] | None:
        """Return the edge at a point if it is a band's limit."""
        found = self._row_at(point)
        if found is None:
            return None
        row = self.rows[found[0]]
        brackets = self._sheets[found[0]][1].brackets
        return next(
            ((row, cells) for rect, cells in brackets if cells.band and cells.edge and _inside(rect, found[1])), None
        )

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            row, cells, start = self._drag
            assert cells.edge is not None
            self.edge_dragged.emit(row, cells, cells.edge + (event.position().x() - start) * row.span / 800)
            return
        shape = Qt.CursorShape.ArrowCursor
        if self._edge_at(event.position()) is not None:
            shape = Qt.CursorShape.SizeHorCursor
        elif self._link_at(event.position()) or self._cell_at(event.position()):
            shape = Qt.CursorShape.PointingHandCursor
        self.setCursor(shape)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        edge = self._edge_at(event.position())
        if edge is not None:
            self._drag = (*edge, event.position().x())
            return
        link = self._link_at(event.position())
        if link is not None:
            self.link_pressed.emit(*link)
            return
        self._chosen = self._cell_at(event.position())
        if self._chosen is not None:
            self._press()
        self.update()

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        if self._drag is not None:
            self._drag = None
            self.editor.do(seal)

    def _press(self) -> None:
        assert self._chosen is not None
        row, cell = self._chosen
        self.cell_pressed.emit(self.rows[row], self._sheets[row][1].cells[cell][1])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Right: (0, 1), Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Down: (1, 0), Qt.Key.Key_Up: (-1, 0)}
        move = step.get(Qt.Key(event.key()))
        if move is not None and self.rows:
            row, cell = self._chosen or (0, -1)
            row = min(max(0, row + move[0]), len(self.rows) - 1)
            cell = min(max(0, cell + move[1]), len(self._sheets[row][1].cells) - 1)
            self._chosen = (row, cell)
            tell_chosen(self, sum(len(sheet.cells) for _, sheet in self._sheets[:row]) + cell)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._chosen is not None:
            self._press()
        else:
            super().keyPressEvent(event)

    def tip_at(self, point: QPointF) -> str:
        """Return the tooltip of the link or cell at a point."""
        link = self._link_at(point)
        if link is not None:
            name = link[1].name
            return {
                "drive": f"Use {name} as the driver",
                "cross": f"Cross with {name} at both ends of its range",
                "arrive": "The seconds after a change: the flash, the trail, the wait",
                "slot": "The next copy",
            }[link[1].does]
        cell = self._cell_at(point)
        if cell is None:
            return ""
        row, (_, sample) = self.rows[cell[0]], self._sheets[cell[0]][1].cells[cell[1]]
        return f"{row.driver} {format_value(sample.value)}: {self._recorded_text(sample)}"

    @staticmethod
    def _recorded_text(sample: Sample) -> str:
        found, words = sample.interval.occurrences, interval_words(sample.interval)
        if found.first is None:
            return "never recorded. Press to pin the value"
        told = f"{words + ': ' if words else ''}{percent(sample.interval.share)} of all frames"
        told += f", first at {clock(found.first)} of {found.trace}"
        return told + (". That exact value was never recorded" if sample.never else "")

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent):
            QToolTip.showText(event.globalPos(), self.tip_at(QPointF(event.pos())), self)
            return True
        return super().event(event)

    def cell_rect(self, row: int, sample: Sample) -> QRectF:
        """Return a cell's rectangle in this view."""
        y, sheet = self._sheets[row]
        rect = next(rect for rect, one in sheet.cells if one is sample)
        return QRectF(rect.x, rect.y + y, rect.width, rect.height)


def _inside(rect: Rect, point: QPointF, below: float = 0.0) -> bool:
    return rect.x <= point.x() < rect.x + rect.width and rect.y <= point.y() < rect.y + rect.height + below
