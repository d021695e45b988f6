"""A sortable, filterable table of recordings with the states of one widget; only visible rows are drawn."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
)

from avrin.app.controls.scroller import thin_bars
from avrin.app.controls.theme import font, theme
from avrin.app.painting.curve import curve_image
from avrin.app.painting.stretches import fill_stretch
from avrin.kinds.states import HIDDEN, state_label
from avrin.render.values import clock
from avrin.sweep.state_table import OfWidget, Outline

__all__ = ["OUTLINE", "SweptRows"]

Index = QModelIndex | QPersistentModelIndex
TALL, NAME, LEAST, OUTLINE, STATE = 34, 240, 160, 440, 128  # pixels
FIXED = 2  # columns before the states: the name and the miniature
FILTERS = ("ever", "never")


class _Model(QAbstractTableModel):
    """shown: the visible rows of `found`, in order. outlines: by recording, as they arrive."""

    def __init__(self) -> None:
        super().__init__()
        self.found: OfWidget | None = None
        self.shown: NDArray[np.int64] = np.zeros(0, np.int64)
        self.outlines: dict[str, Outline | None] = {}

    def rowCount(self, _parent: Index | None = None) -> int:
        return len(self.shown)

    def columnCount(self, _parent: Index | None = None) -> int:
        return 0 if self.found is None else FIXED + len(self.found.states)

    def headerData(self, section: int, way: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if way != Qt.Orientation.Horizontal or role != Qt.ItemDataRole.DisplayRole or self.found is None:
            return None
        return (
            ("recording", "")[section]
            if section < FIXED
            else state_label(self.found.states[section - FIXED], self.found.states)
        )

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        found = self.found
        if found is None or role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            return None
        row, state = int(self.shown[index.row()]), index.column() - FIXED
        if index.column() == 0:
            return found.recordings[row]
        if state < 0:
            return ""
        if not found.entries[row, state]:
            return "never"
        first = f"first at {clock(float(found.first[row, state]))} of run {found.run[row, state]}"
        longest = f"longest {_seconds(found.longest[row, state])}"
        said = f"{_seconds(found.seconds[row, state])}, {found.entries[row, state]:,}×"
        return said if role == Qt.ItemDataRole.DisplayRole else f"{said}, {longest}, {first}"


class _Head(QHeaderView):
    """The column titles with the sort order."""

    def paintSection(self, painter: QPainter, rect: QRect, section: int) -> None:
        t, model = theme(), self.model()
        by, down = self.sortIndicatorSection() == section, self.sortIndicatorOrder() == Qt.SortOrder.DescendingOrder
        word = str(model.headerData(section, Qt.Orientation.Horizontal) or "")
        painter.setFont(font("small", True))
        painter.setPen(t.ink if by else t.second)
        arrow = ("  ↓" if down else "  ↑") if by and word else ""
        painter.drawText(rect.adjusted(10, 0, -4, 0), Qt.AlignmentFlag.AlignVCenter, word + arrow)


class _Look(QStyledItemDelegate):
    """Paints the cells."""

    def __init__(self, view: SweptRows) -> None:
        super().__init__(view)
        self._view = view

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        view, model = self._view, self._view.model_
        found, box, t = model.found, QRectF(option.rect), theme()
        if found is None:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        row, state = int(model.shown[index.row()]), index.column() - FIXED
        if view.currentIndex() == index:
            painter.setPen(QPen(t.accent, 1.6) if view.hasFocus() else Qt.PenStyle.NoPen)
            painter.setBrush(t.soft)
            painter.drawRoundedRect(box.adjusted(2, 2, -2, -2), 4, 4)
        if index.column() == 0:
            painter.setFont(font())
            painter.setPen(t.ink)
            inner = box.adjusted(10, 0, -6, 0)
            name = QFontMetrics(font()).elidedText(
                found.recordings[row], Qt.TextElideMode.ElideLeft, round(inner.width())
            )
            painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter, name)
        elif state < 0:
            self._outline(painter, outline_box(box), model.outlines.get(found.recordings[row]))
        else:
            self._state(painter, box, found, row, state, str(index.data()))
        painter.restore()

    def _state(self, painter: QPainter, box: QRectF, states: OfWidget, row: int, state: int, text: str) -> None:
        t, came = theme(), bool(states.entries[row, state])
        painter.setFont(font("small"))
        painter.setPen(t.ink if came else t.third)
        painter.drawText(box.adjusted(10, 0, -4, -8), Qt.AlignmentFlag.AlignVCenter, text)
        if came:
            whole = box.width() - 24
            wide = max(2.0, whole * float(states.share[row, state]))
            under = QRectF(box.x() + 10, box.bottom() - 10, whole, 3)
            painter.fillRect(under, t.gutter)
            painter.fillRect(QRectF(under.x(), under.y(), wide, 3), self._view.colour_of(states.states[state]))

    def _outline(self, painter: QPainter, box: QRectF, outline: Outline | None) -> None:
        t = theme()
        painter.fillRect(box, t.gutter)
        if outline is None:
            return
        for start, end, state in outline.stretches:
            if state != HIDDEN:
                part = QRectF(box.x() + start * box.width(), box.y(), (end - start) * box.width(), box.height())
                fill_stretch(painter, part, self._view.colour_of(state), state)
        known = np.concatenate([outline.low, outline.high])
        known = known[~np.isnan(known)]
        if len(known) and known.max() > known.min():
            ends = float(known.min()), float(known.max())
            image = curve_image(outline.low, outline.high, ends, round(box.height()), t.desk)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(box, image)


def outline_box(cell: QRectF) -> QRectF:
    """Return the rectangle of a miniature in its cell."""
    return cell.adjusted(8, 7, -12, -7)


class SweptRows(QTableView):
    """Qt's table, styled. asked: a recording and the state to go to, or "" for its start.

    asked_moment: a recording and the pressed share of its miniature, 0–1.
    seen: other recordings are visible and need miniatures.
    """

    asked = Signal(str, int)  # a recording, and the index of a state, -1 for none
    asked_moment = Signal(str, float)
    scrolled = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.model_ = _Model()
        self._pressed_at = -1.0  # x position in the view; negative for key presses
        self._by, self._falls = 0, False  # the sorted column, and whether it is descending
        self.only: tuple[str, str] = ("", "")  # of `FILTERS`, and a state
        self.colour_of: Callable[[str], QColor] = lambda _state: theme().calm
        self.setModel(self.model_)
        self.setItemDelegate(_Look(self))
        head = _Head(Qt.Orientation.Horizontal, self)
        self.setHorizontalHeader(head)
        head.setSectionsClickable(True)
        head.setMinimumHeight(28)
        head.viewport().setAutoFillBackground(False)
        head.sectionClicked.connect(self.sort_by)
        head.sectionDoubleClicked.connect(self.sort_by)  # the second of two quick presses
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(TALL)
        self.setShowGrid(False)
        self.setFrameShape(QTableView.Shape.NoFrame)
        thin_bars(self)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setTabKeyNavigation(False)
        self.viewport().setAutoFillBackground(False)
        self.setAccessibleName("recordings by states")
        self.clicked.connect(self._go)
        self.activated.connect(self._go)
        self.verticalScrollBar().valueChanged.connect(lambda _value: self.scrolled.emit())

    def sizeHint(self) -> QSize:
        return QSize(1240, 400)

    def show_found(self, states: OfWidget | None, colour_of: Callable[[str], QColor]) -> None:
        """Show the states of a widget in all recordings. Sorting and filter persist while they apply."""
        model, before = self.model_, self.model_.found
        self.colour_of = colour_of
        model.beginResetModel()
        model.found, model.outlines = states, {}
        model.endResetModel()
        if states is None or before is None or before.states != states.states:
            self.only = ("", "")
            self._by, self._falls = 0, False
        self._widths()
        self._arrange()

    def _widths(self) -> None:
        """Divide the width left by the states between names and miniatures."""
        found = self.model_.found
        if found is not None:
            rest = self.viewport().width() - STATE * len(found.states)
            drawn = min(OUTLINE, max(LEAST, rest - NAME))
            for column, wide in enumerate((max(NAME, rest - drawn), drawn, *(STATE for _ in found.states))):
                self.setColumnWidth(column, wide)

    def show_only(self, which: str, state: str) -> None:
        """Show only recordings that ever, or never, were in a state; all of them if `which` is ""."""
        self.only = (which, state)
        self._arrange()

    def sort_by(self, column: int) -> None:
        """Sort by a column: names ascending, seconds descending; reversed on repetition."""
        if column == 1:
            return
        self._falls = not self._falls if self._by == column else column > 0
        self._by = column
        self._arrange()

    def _arrange(self) -> None:
        model, found = self.model_, self.model_.found
        # Qt toggles the indicator at each press: set it to the actual order.
        order = Qt.SortOrder.DescendingOrder if self._falls else Qt.SortOrder.AscendingOrder
        self.horizontalHeader().setSortIndicator(self._by, order)
        model.layoutAboutToBeChanged.emit()
        if found is None:
            model.shown = np.zeros(0, np.int64)
        else:
            rows = np.arange(len(found.recordings))
            which, state = self.only
            if which and state in found.states:
                came = found.entries[:, found.states.index(state)] > 0
                rows = rows[came if which == "ever" else ~came]
            if self._by >= FIXED:
                seconds = found.seconds[rows, self._by - FIXED]
                rows = rows[np.argsort(-seconds if self._falls else seconds, kind="stable")]
            elif self._falls:
                rows = rows[::-1]
            model.shown = rows
        model.layoutChanged.emit()
        self.viewport().update()
        self.scrolled.emit()

    def in_view(self) -> list[str]:
        """Return the visible recordings, from the top."""
        found, height = self.model_.found, self.viewport().height()
        if found is None or not len(self.model_.shown):
            return []
        first = max(0, self.rowAt(0))
        last = self.rowAt(height - 1)
        last = len(self.model_.shown) - 1 if last < 0 else last
        return [found.recordings[row] for row in self.model_.shown[first : last + 1].tolist()]

    def add_outlines(self, more: Mapping[str, Outline | None]) -> None:
        """Add miniatures of recordings; None for those that are unreadable now."""
        self.model_.outlines.update(more)
        self.viewport().update()

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        self._widths()
        self.scrolled.emit()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed_at = event.position().x()
        super().mousePressEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        self._pressed_at = -1.0
        super().keyPressEvent(event)

    def _go(self, index: QModelIndex) -> None:
        found = self.model_.found
        if found is not None and index.isValid() and index.column() == 1 and self._pressed_at >= 0:
            box = outline_box(QRectF(self.visualRect(index)))
            share = min(1.0, max(0.0, (self._pressed_at - box.x()) / max(1.0, box.width())))
            self.asked_moment.emit(found.recordings[int(self.model_.shown[index.row()])], share)
        elif found is not None and index.isValid():
            row, state = int(self.model_.shown[index.row()]), index.column() - FIXED
            self.asked.emit(found.recordings[row], state if state >= 0 and found.entries[row, state] else -1)


def _seconds(seconds: float) -> str:
    minutes, rest = divmod(float(seconds), 60)
    return (
        f"{rest:.1f} s" if not minutes else f"{minutes:.0f}:{rest:04.1f}" if minutes < 60 else f"{minutes / 60:.1f} h"
    )
