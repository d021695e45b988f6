"""Lane heads: name, notes, thumbnail and value at the playhead."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPen, QPolygonF

from avrin.app.bind_desk.lanes.scale import HEAD
from avrin.app.controls.theme import font, measure, theme
from avrin.app.painting.paint import draw_shapes
from avrin.app.services.checking import Checking
from avrin.app.services.editor import Editor
from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.editor.lane_notes import Note, Notes
from avrin.editor.lanes import Lane
from avrin.kinds.states import SHOWING, STATE_WORDS
from avrin.render.thumbnail import changing_over, thumbnail
from avrin.render.values import own_value, with_unit

if TYPE_CHECKING:
    from avrin.findings.finding import Finding

__all__ = ["HeadPainter", "cursor_at", "link_box", "value_box"]

THUMB = (50, 20)  # a widget's thumbnail in its head, in pixels
VALUE = 84  # pixels of a head for its value
NAME = 34  # where a variable's name begins
RIGHT = 12
SAID = 66  # pixels for a widget's text: its name has priority


def value_box(lane: Lane, top: int) -> QRectF:
    """Return the box of a variable's value, which can be clicked and dragged."""
    tall = 20.0
    high = top + 4 if lane.height > 40 else top + 3
    return QRectF(HEAD - RIGHT - VALUE, high, VALUE, tall)


def link_box(lane: Lane, top: int) -> QRectF:
    """Return the box of a variable head's "edit" or "declare" link."""
    return QRectF(HEAD - RIGHT - 46, top + lane.height - 18 - (4 if lane.height > 40 else 1), 46, 17)


class HeadPainter:
    """Paints static parts separately from those that change with the playhead."""

    def __init__(self, editor: Editor, checking: Checking) -> None:
        self.editor = editor
        self._checking = checking
        self.notes = Notes()
        self._parts: dict[str, tuple[BoundWidget, Tracks, tuple[float, float]]] = {}

    def still(self, painter: QPainter, lane: Lane, top: int, feeding: set[str], *, linked: bool) -> None:
        """Paint names and notes. feeding: variables of the selected widget. linked: whether to offer editing."""
        if lane.sort == "widget":
            painter.setFont(font("text", True))
            hidden = lane.name in self.editor.now.layout.hidden
            painter.setPen(theme().third if hidden else theme().ink)
            room = self._reading_room(lane)
            title, left = self.editor.now.bound.widgets[lane.name].widget.title, 16 + THUMB[0] + 8
            told = self.standing(lane)
            self._paint_name(painter, title, left, top + (2 if told else 0), lane.height - (18 if told else 0), room)
            if told:
                painter.setFont(font("small"))
                painter.setPen(theme().critical)
                more = f" +{len(told) - 1}" if len(told) > 1 else ""
                self._paint_name(painter, told[0].short + more, left, top + lane.height - 20, 16, room)
        elif lane.sort in ("roster", "fold"):
            self._fold(painter, lane, top)
        elif lane.sort == "event":
            self._event(painter, lane, top)
        else:
            self._variable(painter, lane, top, feeding, linked)

    def standing(self, lane: Lane) -> list[Finding]:
        """Return findings about a lane without a moment, which its head shows; without hints for widgets."""
        found = self._checking.of_lane(lane.name) if lane.sort in ("widget", "variable", "event") else []
        return [f for f in found if f.start is None and not (lane.sort == "widget" and f.severity == "hint")]

    def _reading_room(self, lane: Lane) -> int:
        """Return the pixels for a widget's value: its widest word or share; the name gets the rest."""
        widget = self.editor.now.bound.widgets[lane.name]
        if widget.kind.reading and not widget.kind.share:
            return SAID
        share = "  100 %" if widget.kind.share else ""
        words = (*STATE_WORDS, *(band.name + share for band in widget.widget.bands))
        return min(VALUE, round(max(measure(word, "text", True) for word in words)) + 2)

    def _paint_name(self, painter: QPainter, text: str, x: int, top: float, height: float, value: int = VALUE) -> None:
        """value: pixels reserved for the value."""
        shown = QFontMetrics(painter.font()).elidedText(text, Qt.TextElideMode.ElideRight, HEAD - RIGHT - value - 4 - x)
        painter.drawText(QRectF(x, top, 160, height), Qt.AlignmentFlag.AlignVCenter, shown)

    def _variable(self, painter: QPainter, lane: Lane, top: int, feeding: set[str], linked: bool) -> None:
        t = theme()
        box = value_box(lane, top)
        middle = box.center().y()
        painter.setPen(QPen(t.accent if lane.name in feeding else t.line, 2))
        inset = 8 if "[" in lane.name else 0
        for y in (middle - 2, middle + 2) if lane.rule else (middle,):  # a derived value is marked by an equals sign
            painter.drawLine(QPointF(20 + inset, y), QPointF(26 + inset, y))
        painter.setFont(font("text"))
        painter.setPen(t.ink if lane.declared else t.second)
        self._paint_name(painter, lane.name, NAME + inset, box.top(), box.height())
        below = link_box(lane, top)
        painter.setFont(font("small"))
        room = (below.left() if linked or not lane.declared else HEAD - RIGHT) - NAME - inset - 4
        x = float(NAME + inset)
        told = [Note(short, odd=True) for short in dict.fromkeys(f.short for f in self.standing(lane))]
        for number, note in enumerate([*told, *self.notes.of(self.editor.now, lane.name)]):
            text = ("· " if number else "") + note.text
            wide = measure(text, "small")
            if x + wide > NAME + inset + room:
                break
            painter.setPen(t.critical if note.odd else t.third)
            painter.drawText(QRectF(x, below.top(), wide + 2, below.height()), Qt.AlignmentFlag.AlignVCenter, text)
            x += wide + 4
        if linked or not lane.declared:
            painter.setPen(t.accent)
            painter.setFont(font("small", True))
            word = "edit" if lane.declared else "declare"
            painter.drawText(below, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, word)

    def _fold(self, painter: QPainter, lane: Lane, top: int) -> None:
        t = theme()
        roster = next((r for r in self.editor.now.project.rosters if r.name == lane.name), None)
        middle = top + lane.height / 2
        mark = [(-3, -4), (3, 0), (-3, 4)] if not lane.open else [(-4, -3), (4, -3), (0, 3)]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.second)
        painter.drawPolygon(QPolygonF([QPointF(24 + x, middle + y) for x, y in mark]))
        painter.setPen(t.ink if roster else t.second)
        painter.setFont(font("text", lane.sort == "roster"))
        painter.drawText(QRectF(NAME, top, 140, lane.height), Qt.AlignmentFlag.AlignVCenter, lane.name)
        painter.setPen(t.third)
        painter.setFont(font("small"))
        text = self._slots(lane)
        area = QRectF(HEAD - RIGHT - 90, top, 90, lane.height)
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)

    def _event(self, painter: QPainter, lane: Lane, top: int) -> None:
        t = theme()
        middle = top + lane.height / 2
        derived = lane.name in self.editor.now.bound.scope.derived_events  # hollow: it follows from a rule
        painter.setPen(QPen(t.second, 1.2) if derived else Qt.PenStyle.NoPen)
        painter.setBrush(Qt.BrushStyle.NoBrush if derived else t.second)
        painter.drawPolygon(QPolygonF([QPointF(23 + x, middle + y) for x, y in ((0, -5), (4, 0), (0, 5), (-4, 0))]))
        painter.setFont(font("text"))
        painter.setPen(t.ink if lane.declared else t.second)
        self._paint_name(painter, lane.name, NAME, top, lane.height)

    # -- at the playhead --------------------------------------------------------------------------------------------

    def value(self, painter: QPainter, lane: Lane, top: int) -> None:
        """Paint what changes with the playhead: the thumbnail and the value."""
        t = theme()
        if lane.sort in ("roster", "fold"):
            return
        area, text = QRectF(HEAD - RIGHT - VALUE, top, VALUE, lane.height), self.reading(lane)
        if lane.sort == "widget":
            self._thumb(painter, lane, top)
            room = self._reading_room(lane)
            area = QRectF(HEAD - RIGHT - room, top, room, lane.height)
        elif lane.sort == "variable":
            area = value_box(lane, top)
            if lane.name in self.editor.now.pins:
                self._pinned(painter, area, text)
                return
        painter.setFont(font("text", True))
        painter.setPen(t.third if text == "missing" else t.ink)
        self._right(painter, area, text)

    def title(self, lane: Lane) -> str:
        """Return a lane's title."""
        return self.editor.now.bound.widgets[lane.name].widget.title if lane.sort == "widget" else lane.name

    def reading(self, lane: Lane) -> str:
        """Return the value in a lane's head."""
        editor = self.editor
        if lane.sort == "widget":
            return self._reading(editor.now.bound.widgets[lane.name])
        if lane.sort == "event":
            return f"{editor.now.happened_so_far(lane.name):,}×"
        if lane.sort in ("roster", "fold"):
            return self._slots(lane)
        variable = editor.now.variable(lane.name)
        return with_unit(editor.now.value(lane.name), variable.unit if variable else "")

    def _slots(self, lane: Lane) -> str:
        if lane.sort == "fold":
            return f"{lane.count} names"
        roster = next((r for r in self.editor.now.project.rosters if r.name == lane.name), None)
        return f"{roster.slots} slots" if roster else "not declared"

    def _reading(self, widget: BoundWidget) -> str:
        """Return the widget's own value while it is visible, else its state word."""
        editor, frame = self.editor, self.editor.now.frame
        word = editor.now.bound.state_word(widget, editor.now.tracks.value(widget.state, frame))
        if word in STATE_WORDS[:-1]:
            return word
        value = own_value(widget, editor.now.tracks.state(widget, frame))
        return f"{word}  {value}" if value and word != SHOWING else value or word

    @staticmethod
    def _right(painter: QPainter, area: QRectF, text: str) -> None:
        if measure(text, "text", True) > area.width():
            text = QFontMetrics(painter.font()).elidedText(text, Qt.TextElideMode.ElideRight, round(area.width()))
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)

    def _pinned(self, painter: QPainter, area: QRectF, text: str) -> None:
        """Paint a pinned value on the accent colour, with a cross that unpins it."""
        t = theme()
        wide = min(area.width() + 8, measure(text, "text", True) + 30)
        pill = QRectF(area.right() + 6 - wide, area.top(), wide, area.height())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.accent)
        painter.drawRoundedRect(pill, pill.height() / 2, pill.height() / 2)
        painter.setPen(QPen(t.desk, 1.4))
        c = QPointF(pill.right() - 10, pill.center().y())
        painter.drawLine(c + QPointF(-3, -3), c + QPointF(3, 3))
        painter.drawLine(c + QPointF(-3, 3), c + QPointF(3, -3))
        painter.setFont(font("text", True))
        self._right(painter, pill.adjusted(8, 0, -18, 0), text)

    def _changing(self, widget: BoundWidget) -> tuple[float, float]:
        """Return the part of a widget that changes over the recording, computed once."""
        tracks, name = self.editor.now.tracks, widget.widget.id
        known = self._parts.get(name)
        if known is None or known[0] is not widget or known[1] is not tracks:
            known = self._parts[name] = (widget, tracks, changing_over(tracks, widget))
        return known[2]

    def _thumb(self, painter: QPainter, lane: Lane, top: int) -> None:
        """Draw the widget's thumbnail."""
        widget = self.editor.now.bound.widgets[lane.name]
        state = self.editor.now.tracks.state(widget, self.editor.now.frame)
        box = QRectF(16, top + (lane.height - THUMB[1]) / 2, *THUMB)
        painter.setPen(Qt.PenStyle.NoPen)
        ground = QColor(self.editor.now.ground or theme().under)
        painter.setBrush(ground)
        painter.drawRoundedRect(box, 3, 3)
        if not state["visible"]:
            return
        clock = float(self.editor.now.trace.t[self.editor.now.frame])
        part, size = partial(self._changing, widget), (THUMB[0] - 8, THUMB[1] - 6)
        small = thumbnail(widget, state, clock, self.editor.now.bound, size, part=part, ground=ground.name())
        painter.save()
        painter.setClipRect(box, Qt.ClipOperation.IntersectClip)
        painter.translate(box.x() + 4, box.y() + 3)
        draw_shapes(painter, [small])
        painter.restore()


def cursor_at(under: tuple[Lane, int] | None, at: QPointF) -> Qt.CursorShape:
    """Return the cursor over a lane. under: the lane and its top in pixels."""
    if under is None or at.x() >= HEAD:
        return Qt.CursorShape.ArrowCursor
    lane, top = under
    if lane.sort != "variable" or link_box(lane, top).contains(at):
        return Qt.CursorShape.PointingHandCursor
    over_value = value_box(lane, top).contains(at)
    return Qt.CursorShape.SizeHorCursor if over_value else Qt.CursorShape.OpenHandCursor
