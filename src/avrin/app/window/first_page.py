"""The first page: recent projects as thumbnails, and ways to start from a recording.

It is the window's first picture, so it imports nothing slow.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QScrollArea, QWidget

from avrin.app.controls.link import Link, Pressable
from avrin.app.controls.scroller import thin_bars
from avrin.app.controls.theme import font, measure, theme
from avrin.app.painting.picture_cache import kept_picture
from avrin.storage.drafts import delete_draft, describe_draft, drafts
from avrin.storage.journal import are_left, rescued
from avrin.storage.recent import recent_projects, remove_recent, thumbnail_file

__all__ = ["FirstPage"]

LEFT, TOP = 72, 86
WAYS_WIDE = 348
CARD = QSize(272, 153)  # of a thumbnail
CARD_TALL = CARD.height() + 52
GAP = 28
WORD = 34  # pixels of the name
STEPS = (
    ("Open what your game recorded", "one row per frame, one column per value: nothing to prepare"),
    ("Use the suggested widgets", "each drawn live, ranked by how the recording behaves"),
    ("See every state, at every threshold", "and hand the programmers an exact specification"),
)


class FirstPage(QWidget):
    """Ways to start at the left, recent projects at the right; files can be dropped anywhere."""

    recording_wanted = Signal()
    empty_wanted = Signal()
    project_wanted = Signal()
    sample_wanted = Signal()
    project_chosen = Signal(object)  # its path
    draft_chosen = Signal(object)
    exited = Signal()  # back to the open project

    def __init__(self, can_leave: bool = False) -> None:
        super().__init__()
        self.can_leave = can_leave
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("First page")
        self.ways = [
            _Way(self, "Open a recording …", "of your game: CSV, Parquet or a change log", self.recording_wanted.emit, main=True),
            _Way(self, "Open a project …", "an .avrin file", self.project_wanted.emit),
            _Way(self, "Start without a recording", "declare the game's variables", self.empty_wanted.emit),
            _Way(self, "Open the sample", "Brinehook, a salvage dive with every feature", self.sample_wanted.emit),
        ]  # fmt: skip
        self.back = Link("back   Esc", self.exited.emit, bold=True)
        self.back.setParent(self)
        self.back.setVisible(can_leave)
        self.lately = QScrollArea(self)
        self.lately.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        thin_bars(self.lately)
        self.lately.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.cards: list[Card] = []
        self._dropping = False
        self.refresh()

    def refresh(self) -> None:
        """Update the recent projects."""
        inner = QWidget()
        rescued()
        kept = [Card(inner, path, partial(self.draft_chosen.emit, path), self._gone, draft=True) for path in drafts()]
        opened = recent_projects()
        edited = are_left(opened)
        known = [
            Card(inner, path, partial(self.project_chosen.emit, path), self._gone, unsaved=path in edited)
            for path in opened
        ]
        self.cards = [*kept, *known]
        self.lately.setWidget(inner)
        self.lately.setVisible(bool(self.cards))
        self._place()

    def _gone(self, card: Card) -> None:
        """Remove a card's project from the list."""
        if card.draft:
            delete_draft(card.path)
        else:
            remove_recent(card.path)
        self.refresh()

    def set_dropping(self, dropping: bool) -> None:
        """Set whether files are being dragged over the window."""
        self._dropping = dropping
        self.update()

    # -- layout -------------------------------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place()

    def _place(self) -> None:
        y = TOP + 104
        for way in self.ways:
            way.setGeometry(LEFT - 12, y, WAYS_WIDE, 52)
            y += 60
        self.back.move(LEFT - 7, self.height() - 52)
        right = self._right()
        self.lately.setGeometry(round(right.x()), TOP + 40, round(right.width()), max(0, self.height() - TOP - 52))
        across = self._across()
        for number, card in enumerate(self.cards):
            row, column = divmod(number, across)
            card.setGeometry(column * (CARD.width() + GAP), row * (CARD_TALL + 18), CARD.width(), CARD_TALL)
        inner = self.lately.widget()
        if inner is not None:
            rows = -(-len(self.cards) // across)
            inner.resize(round(right.width()) - 12, rows * (CARD_TALL + 18))

    def _right(self) -> QRectF:
        x = LEFT + WAYS_WIDE + 64
        return QRectF(x, TOP, max(CARD.width(), self.width() - x - 40), self.height() - TOP - 40)

    # -- painting -----------------------------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), t.desk)
        name = QFont(font("title", True))
        name.setPixelSize(WORD)
        painter.setFont(name)
        painter.setPen(t.ink)
        painter.drawText(QPointF(LEFT, TOP + 26), "Avrin")
        painter.setFont(font("large"))
        painter.setPen(t.second)
        painter.drawText(QPointF(LEFT, TOP + 56), "Every state of a HUD, over real play,")
        painter.drawText(QPointF(LEFT, TOP + 76), "before it is built.")
        right = self._right()
        painter.setPen(QPen(t.line, 1))
        painter.drawLine(QPointF(right.x() - 34, TOP), QPointF(right.x() - 34, self.height() - 40))
        painter.setFont(font("title", True))
        painter.setPen(t.ink)
        painter.drawText(QPointF(right.x(), TOP + 18), "Recent projects" if self.cards else "From a recording to a HUD")
        if not self.cards:
            self._paint_story(painter, right.adjusted(0, 44, 0, 0))
        elif (below := self._below_cards()) is not None:
            painter.setFont(font("title", True))
            painter.drawText(QPointF(below.x(), below.y() + 14), "From a recording to a HUD")
            self._paint_steps(painter, below.adjusted(0, 36, 0, 0))
        painter.setFont(font("text"))
        painter.setPen(t.third)
        painter.drawText(
            QPointF(LEFT, TOP + 104 + 60 * len(self.ways) + 26), "Or drop recordings, or a project, anywhere."
        )
        if self._dropping:
            painter.setPen(QPen(t.accent, 3))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(8, 8, -8, -8), 10, 10)

    def _below_cards(self) -> QRectF | None:
        """Return the rectangle for the steps below the cards; None without room."""
        right = self._right()
        rows = -(-len(self.cards) // self._across())
        top = TOP + 40 + rows * (CARD_TALL + 18) + 26
        return QRectF(right.x(), top, right.width(), 210) if top + 220 <= self.height() else None

    def _across(self) -> int:
        return max(1, int((self._right().width() + GAP - 12) // (CARD.width() + GAP)))

    def _paint_steps(self, painter: QPainter, area: QRectF) -> None:
        """Paint the steps from a recording to a HUD, side by side."""
        t = theme()
        wide = min(212.0, (area.width() - 2 * GAP) / 3)
        for number, (said, more) in enumerate(STEPS):
            box = QRectF(area.x() + number * (wide + GAP), area.y(), wide, wide * 0.5)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.under)
            painter.drawRoundedRect(box, 6, 6)
            PAINTED[number](painter, box)
            painter.setFont(font("text", True))
            painter.setPen(t.ink)
            painter.drawText(QPointF(box.x() + 2, box.bottom() + 20), said)
            painter.setFont(font("small"))
            painter.setPen(t.second)
            room = QRectF(box.x() + 2, box.bottom() + 26, wide, 34)
            painter.drawText(room, Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, more)

    def _paint_story(self, painter: QPainter, area: QRectF) -> None:
        """Paint a recording's curves and the widgets derived from them."""
        t = theme()
        tall = min(150.0, area.height() / 3.4)
        for number, (said, more) in enumerate(STEPS):
            y = area.y() + number * (tall + 22)
            box = QRectF(area.x(), y, 250, tall)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.under)
            painter.drawRoundedRect(box, 6, 6)
            PAINTED[number](painter, box)
            x = box.right() + 26
            painter.setFont(font("title", True))
            painter.setPen(t.accent)
            painter.drawText(QPointF(x, box.center().y() - 4), str(number + 1))
            painter.setPen(t.ink)
            painter.setFont(font("large", True))
            painter.drawText(QPointF(x + 24, box.center().y() - 4), said)
            painter.setPen(t.second)
            painter.setFont(font("text"))
            room = QRectF(x + 24, box.center().y() + 6, area.right() - x - 24, 40)
            painter.drawText(room, Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, more)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.can_leave:
            self.exited.emit()
        elif event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self.focusNextPrevChild(event.key() == Qt.Key.Key_Down)
        else:
            super().keyPressEvent(event)


class _Way(Pressable):
    """A way to start: its title, and a description."""

    def __init__(self, parent: QWidget, text: str, note: str, act: Callable[[], object], *, main: bool = False) -> None:
        super().__init__(act)
        self.setParent(parent)
        self._text, self._note, self._main = text, note, main
        self.setAccessibleName(text)
        self.setAccessibleDescription(note)

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        painter.setPen(QPen(t.accent, 2) if self.hasFocus() else Qt.PenStyle.NoPen)
        painter.setBrush(t.accent if self._main else t.raised if self.over else Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(box, 6, 6)
        if self._main and self.hasFocus():
            painter.setPen(QPen(t.desk, 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(3, 3, -3, -3), 4, 4)
        painter.setFont(font("large", True))
        painter.setPen(t.desk if self._main else t.accent)
        painter.drawText(QPointF(12, 23), self._text)
        painter.setFont(font("small"))
        painter.setPen(t.desk if self._main else t.second)
        painter.drawText(QPointF(12, 40), self._note)


class Card(Pressable):
    """A project's thumbnail, name and folder. draft: it was never saved. unsaved: it has recovered edits."""

    def __init__(
        self,
        parent: QWidget,
        path: Path,
        act: Callable[[], object],
        gone: Callable[[Card], None],
        *,
        draft: bool = False,
        unsaved: bool = False,
    ) -> None:
        super().__init__(act)
        self.setParent(parent)
        self.path, self.draft = path, draft
        self._gone = gone
        self._unsaved = unsaved
        self._face = kept_picture(thumbnail_file(path))
        self.title, self._begun = describe_draft(path) if draft else (path.stem, "")
        self.setAccessibleName(f"{'Draft' if draft else 'Project'} {self.title}")
        self.setToolTip(str(path) if not draft else "Not saved yet: restored as you left it")
        self.setMouseTracking(True)

    def _cross(self) -> QRectF:
        return QRectF(self.width() - 26, CARD.height() + 8, 20, 20)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._cross().contains(event.position()):
            self.setDown(False)
            self._gone(self)
        else:
            super().mouseReleaseEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Delete:
            self._gone(self)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        box = QRectF(0, 0, CARD.width(), CARD.height()).adjusted(1.5, 1.5, -1.5, -1.5)
        path = QPainterPath()
        path.addRoundedRect(box, 6, 6)
        painter.fillPath(path, t.under)
        if self._face is not None:
            painter.save()
            painter.setClipPath(path)
            painter.drawImage(box, self._face)
            painter.restore()
        else:
            _bar(painter, box)
        if self.hasFocus() or self.over:
            painter.setPen(QPen(t.accent, 2.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(path)
        painter.setFont(font("large", True))
        painter.setPen(t.ink)
        metrics = painter.fontMetrics()
        painter.drawText(
            QPointF(2, CARD.height() + 22),
            metrics.elidedText(self.title, Qt.TextElideMode.ElideRight, CARD.width() - 34),
        )
        painter.setFont(font("small"))
        painter.setPen(t.critical if self.draft or self._unsaved else t.second)
        where = f"not saved yet  ·  started {self._begun}" if self.draft else _where(self.path)
        if self._unsaved:
            where = f"unsaved edits  ·  {where}"
        shown = painter.fontMetrics().elidedText(where, Qt.TextElideMode.ElideMiddle, CARD.width() - 8)
        painter.drawText(QPointF(2, CARD.height() + 40), shown)
        if self.over or self.hasFocus():
            middle = self._cross().center()
            painter.setPen(QPen(t.second, 1.5))
            painter.drawLine(middle + QPointF(-4, -4), middle + QPointF(4, 4))
            painter.drawLine(middle + QPointF(-4, 4), middle + QPointF(4, -4))


def _where(path: Path) -> str:
    """Return a project's folder, and how long ago it was saved."""
    try:
        days = int((time.time() - path.stat().st_mtime) // 86400)
    except OSError:
        return str(path.parent)
    ago = "today" if days == 0 else "yesterday" if days == 1 else f"{days} days ago"
    return f"{ago}  ·  in {path.parent.name}"


def _curves(painter: QPainter, box: QRectF) -> None:
    """Paint three lanes of a recording."""
    shapes = (
        (0.2, 0.2, 0.2, 0.45, 0.45, 0.8, 0.8, 0.35, 0.35, 0.6), (0.9, 0.85, 0.7, 0.7, 0.5, 0.5, 0.3, 0.3, 0.1, 0.1),
        (0.1, 0.4, 0.7, 0.9, 0.1, 0.4, 0.7, 0.9, 0.1, 0.4),
    )  # fmt: skip
    for number, levels in enumerate(shapes):
        top, tall = box.y() + 12 + number * (box.height() - 20) / 3, (box.height() - 20) / 3 - 10
        points = [
            QPointF(box.x() + 16 + i * (box.width() - 32) / (len(levels) - 1), top + level * tall)
            for i, level in enumerate(levels)
        ]
        painter.setPen(QPen(QColor("#8fd0c0" if number == 0 else "#e9e2d0"), 1.8))
        painter.drawPolyline(points)


def _bar(painter: QPainter, box: QRectF) -> None:
    """Paint a bar, pips and a number, like a first HUD."""
    painter.setPen(QPen(QColor("#dfe9e4"), 2))
    painter.setBrush(QColor("#10222b"))
    frame = QRectF(box.x() + 18, box.y() + 30, box.width() * 0.5, 16)
    painter.drawRoundedRect(frame, 4, 4)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor("#4C9A80"))
    painter.drawRoundedRect(frame.adjusted(4, 4, -0.35 * frame.width(), -4), 2, 2)
    for number in range(4):
        painter.setBrush(QColor("#8fd0c0" if number < 3 else "#25424a"))
        painter.drawEllipse(QRectF(box.x() + 18 + number * 20, box.y() + 60, 13, 13))
    painter.setPen(QColor("#ffe9a8"))
    big = QFont(font("title", True))
    big.setPixelSize(30)
    painter.setFont(big)
    painter.drawText(box.adjusted(0, 0, -18, -12), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom, "212")


def _states(painter: QPainter, box: QRectF) -> None:
    """Paint the same bar just below, at and just above its threshold."""
    wide = (box.width() - 64) / 3
    for number, (share, colour) in enumerate(((0.24, "#C7473C"), (0.25, "#D68F2C"), (0.8, "#4C9A80"))):
        frame = QRectF(box.x() + 18 + number * (wide + 14), box.center().y() - 8, wide, 16)
        painter.setPen(QPen(QColor("#dfe9e4"), 1.5))
        painter.setBrush(QColor("#10222b"))
        painter.drawRoundedRect(frame, 4, 4)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(colour))
        painter.drawRoundedRect(QRectF(frame.x() + 4, frame.y() + 4, (wide - 8) * share, 8), 2, 2)
        painter.setPen(QColor("#a3b5ba"))
        painter.setFont(font("small"))
        said = ("below", "at 25 %", "above")[number]
        painter.drawText(QPointF(frame.center().x() - measure(said, "small") / 2, frame.bottom() + 18), said)


PAINTED = (_curves, _bar, _states)
