"""The lanes: heads with current values at the left, and each thing over time at the right.

Static content is painted once during playback; each frame repaints the heads' values and the playhead's line.
"""

from __future__ import annotations

import functools
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QRegion,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea

from avrin.app.bind_desk.lanes.aside import ASIDE, paint_aside, press_aside
from avrin.app.bind_desk.lanes.body import BodyPainter, paint_run_starts
from avrin.app.bind_desk.lanes.editor import DeclarationEdit
from avrin.app.bind_desk.lanes.heads import HeadPainter, cursor_at, link_box, value_box
from avrin.app.bind_desk.lanes.pinning import Pinning
from avrin.app.bind_desk.lanes.scale import HEAD, TimeScale
from avrin.app.bind_desk.lanes.stack import Stack
from avrin.app.controls.assistive import Assisted, Part, Role
from avrin.app.controls.focus import Ringed, ring
from avrin.app.controls.scroller import thin_bars
from avrin.app.controls.theme import theme
from avrin.app.painting.offscreen import painting
from avrin.app.services.checking import Checking
from avrin.app.services.comparison import Comparison
from avrin.app.services.editor import Editor
from avrin.app.services.suggestions import Suggestions
from avrin.editor.changes import Change
from avrin.editor.edits import edit
from avrin.editor.lanes import (
    FOLD,
    Lane,
    LaneSort,
    dragged_name,
    is_selected,
    key_of,
    lanes,
    moved_by_hand,
    selection_of,
)
from avrin.editor.layout import fold, order_lanes_by_hand
from avrin.editor.playback import go_to_seconds
from avrin.editor.selecting import extend_selection, select, select_variable, toggle
from avrin.editor.snapshot import sources

if TYPE_CHECKING:
    from avrin.app.bind_desk.lanes.editor import DeclarationEdit

__all__ = ["LaneView"]

DRAG_FROM = 5  # pixels a press must move to become a drag
GROWN_EVERY = 200  # milliseconds between repaints of a growing trace


class LaneView(Ringed, Assisted, QAbstractScrollArea):
    """All lanes in a vertically scrolling view. A variable's head can be dragged onto the picture."""

    drag_moved = Signal(str, QPoint)  # variable, global position
    drag_ended = Signal(str, QPoint)
    drag_cancelled = Signal()
    rule_wanted = Signal()  # of the selected derived value
    title_wanted = Signal()  # of the selected widget
    offered = Signal(str)  # a variable chosen for binding by keyboard

    def __init__(
        self, editor: Editor, checking: Checking, comparison: Comparison, suggestions: Suggestions, scale: TimeScale
    ) -> None:
        super().__init__()
        self.editor = editor
        self._checking, self._suggestions = checking, suggestions
        self.scale = scale
        self.stack = Stack()
        self.wanted = ""
        self._bodies = BodyPainter(editor, checking, comparison, scale)
        self._heads = HeadPainter(editor, checking)
        self._growing = QTimer(self)
        self._growing.setSingleShot(True)
        self._growing.setInterval(GROWN_EVERY)
        self._growing.timeout.connect(self._new_length)
        self._still: QPixmap | None = None
        self._line = 0  # where the playhead's line was painted last
        self._pressed: tuple[Lane, QPointF] | None = None
        self._dragging = ""
        self._scrubbing = False
        self._hover = ""  # the widget whose lane is hovered
        self._gap: int | None = None  # where a dragged lane would be inserted
        thin_bars(self)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Lanes")
        self.viewport().setMouseTracking(True)
        self.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._form: DeclarationEdit | None = None
        self.pinning = Pinning(editor, self.viewport())
        editor.follow("lanes", self)
        self._order = editor.now.layout.order
        scale.changed.connect(self.repaint_all)

    def assisted_parts(self) -> list[Part]:
        """Return each lane with the content of its head; a press selects it."""
        wide, chosen = self.viewport().width(), self.editor.now.selection
        return [
            Part(
                self._heads.title(lane), QRect(0, top, wide, lane.height), Role.ListItem, self._heads.reading(lane),
                is_selected(lane, chosen), functools.partial(self.editor.do, select, selection_of(lane)),
            )
            for lane, top in self.stack.each()
        ]  # fmt: skip

    # -- contents ---------------------------------------------------------------------------------------------------

    def on_change(self, change: Change) -> None:
        """Show another recording, other lanes, or another moment."""
        if change.of("recording"):
            self._new_trace()
        else:
            if change.of("suggestions") or (change.of("tracks") and not self._only_moved(change)):
                self.rebuild()
            if change.of("selection"):
                self._selected()
            if change.of("playhead"):
                self._moved()
            if change.of("figures"):
                self._update_tooltip()
        if change.of("grown") and not self._growing.isActive():
            self._growing.start()
        if change.of("layout"):
            self._looked_at()
        if change.of("findings"):
            self._checked()
        if change.of("comparison"):
            self.repaint_all()
        if change.of("ground"):
            self.viewport().update()

    def _only_moved(self, change: Change) -> bool:
        """Return whether nothing but positions of widgets changed."""
        return self.editor.now.just_moved and not change.of("trace", "pins")

    def rebuild(self) -> None:
        """Update the lanes after a change of the project."""
        found = lanes(
            self.editor.now, self._suggestions.names, self._checking.of_lane, find=self.wanted, editing=self.editing
        )
        if not self.editor.now.bound.errors or {*found} != {*self.stack.lanes}:
            self.stack.show(found)  # while a rule is incomplete, the lanes do not move
        bar = self.verticalScrollBar()
        bar.setRange(0, max(0, self.stack.tall - self.viewport().height()))
        bar.setPageStep(self.viewport().height())
        bar.setSingleStep(20)
        self._look()

    @property
    def lanes(self) -> list[Lane]:
        """Return all lanes, from top to bottom."""
        return self.stack.lanes

    def _look(self) -> None:
        """Update the visible lanes and the pinned ones: the edited one, the selection, and its variables."""
        view, chosen = self.viewport(), self.editor.now.selection
        self.stack.look(self.verticalScrollBar().value(), view.height(), view.width())
        widgets = [found for ident in chosen.widgets if (found := self.editor.now.bound.widgets.get(ident)) is not None]
        wanted: list[tuple[str, LaneSort]] = [(self.editing, "variable"), (chosen.variable, "variable")]
        for widget in widgets[:1]:
            wanted += [(widget.widget.id, "widget"), *((name, "variable") for name in sources(widget))]
        self.stack.keep([key for key in wanted if key[0]])
        self.repaint_all()
        self._place_form()

    def _looked_at(self) -> None:
        order = self.editor.now.layout.order
        self.rebuild()
        if order not in (self._order, "by hand"):  # a manually moved lane stays under the pointer
            self.verticalScrollBar().setValue(0)
        self._order = order

    def _checked(self) -> None:
        if self.editor.now.layout.order == "by trouble":
            self.rebuild()
        else:
            self.repaint_all()

    def _new_trace(self) -> None:
        self._bodies.forget()
        self._heads.notes.forget()
        self.scale.show_all(self.editor.now.trace.length)
        self.rebuild()

    def _selected(self) -> None:
        chosen = self.editor.now.selection
        self.reveal(chosen.widget or chosen.variable, widget=bool(chosen.widget))
        self._look()

    def reveal(self, name: str, *, widget: bool = False) -> None:
        """Scroll to a variable's, event's or widget's lane, expanding its roster."""
        if name.endswith("()"):
            self.verticalScrollBar().setValue(self.stack.bring(name.removesuffix("()"), "event"))
            return
        if not widget and name and self.lane_rect(name) is None:
            self.editor.do(fold, name.split("[", 1)[0] if "[" in name else FOLD, opened=True)
        self.verticalScrollBar().setValue(self.stack.bring(name, "widget" if widget else "variable"))

    def show_only(self, text: str) -> None:
        """Show only lanes whose names contain a text; all lanes if it is empty."""
        self.wanted = text
        self.verticalScrollBar().setValue(0)
        self.rebuild()

    # -- editing in the heads ---------------------------------------------------------------------------------------

    @property
    def form(self) -> DeclarationEdit:
        """The declaration editor, created on first use."""
        if self._form is None:
            self._form = DeclarationEdit(self.editor, self.viewport())
            self._form.closed.connect(self._edited)
        return self._form

    @property
    def editing(self) -> str:
        """The variable whose declaration is being edited, or ""."""
        return self._form.variable if self._form is not None else ""

    def edit(self, name: str) -> None:
        """Edit a variable's declaration in its lane, declaring it first if it is only recorded."""
        editor = self.editor
        if editor.now.is_derived(name):
            editor.do(select_variable, name)
            self.rule_wanted.emit()
            return
        if editor.now.variable(name) is None:
            if editor.now.undeclared(name) is None:
                return
            editor.do(edit, editor.now.declared(name), f"declaration of {name}")
        self.form.open_for(name)
        self.rebuild()
        self.reveal(name)
        self._place_form()

    def edit_chosen(self) -> None:
        """Edit the selected variable."""
        if self.editor.now.selection.variable:
            self.edit(self.editor.now.selection.variable)

    def _edited(self) -> None:
        self.rebuild()
        self.setFocus()

    def _place_form(self) -> None:
        rect = self.lane_rect(self.editing) if self.editing else None
        if rect is not None:
            self.form.setGeometry(0, rect.y(), HEAD - 1, rect.height())

    def _new_length(self) -> None:
        """Schedule a repaint of a growing trace."""
        self._bodies.forget()
        self._heads.notes.forget()
        self.scale.grow(self.editor.now.trace.length)
        self.rebuild()

    @property
    def busy(self) -> bool:
        """Whether a repaint of static content is pending."""
        return self._still is None or self._growing.isActive()

    def repaint_all(self) -> None:
        """Repaint static content."""
        self._still = None
        self.viewport().update()

    def lane_rect(self, name: str, *, widget: bool = False, sort: LaneSort | None = None) -> QRect | None:
        """Return the rectangle of a lane in the viewport; None for an unknown lane."""
        return self.stack.place(name, sort or ("widget" if widget else "variable"))

    # -- painting ---------------------------------------------------------------------------------------------------

    def _moved(self) -> None:
        self.scale.bring(self.editor.now.seconds)
        if self._still is None:
            return  # everything is repainted anyway
        x, view = round(self.scale.x(self.editor.now.seconds)), self.viewport()
        view.update(QRegion(self._line - 2, 0, 5, view.height()) + QRect(x - 2, 0, 5, view.height()))

    def ring_changed(self) -> None:
        self.viewport().update()

    def _update_tooltip(self) -> None:
        self.viewport().update(QRect(0, 0, HEAD, self.viewport().height()))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.rebuild()

    def scrollContentsBy(self, _dx: int, _dy: int) -> None:
        self.pinning.close()
        self._look()

    def paintEvent(self, event: QPaintEvent) -> None:
        view = self.viewport()
        if self._still is None:
            self._still = self._painted()
        painter = QPainter(view)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawPixmap(0, 0, self._still)
        if event.region().intersects(QRect(0, 0, HEAD, view.height())):
            painter.setClipRect(0, self.stack.held, HEAD, view.height())
            self._paint_heads(painter, self.stack.scrolled())
            painter.setClipping(False)
            self._paint_heads(painter, self.stack.stays())
        self._line = round(self.scale.x(self.editor.now.seconds))
        x = self._line + 0.5
        if HEAD < x < view.width():
            painter.setPen(QPen(theme().accent, 2))
            painter.drawLine(QPointF(x, 0), QPointF(x, view.height()))
        if self.by_keys:
            ring(painter, QRectF(view.rect()))
        if self._gap is not None:
            painter.setPen(QPen(theme().accent, 2))
            painter.drawLine(QPointF(6, self._gap), QPointF(HEAD - 6, self._gap))

    def _paint_heads(self, painter: QPainter, lanes: list[tuple[Lane, int]]) -> None:
        """Paint what changes in heads with the playhead and the pointer."""
        editor = self.editor
        for lane, top in lanes:
            self._heads.value(painter, lane, top)
            if lane.sort == "widget":
                offered = lane.name == self._hover or lane.name in editor.now.selection.widgets
                paint_aside(painter, editor.now, lane.name, top, lane.height, offered=offered)

    def _painted(self) -> QPixmap:
        """Return backgrounds, names, curves and stretches."""
        view, t = self.viewport(), theme()
        ratio = view.devicePixelRatioF()
        still = QPixmap(view.size() * ratio)
        still.setDevicePixelRatio(ratio)
        still.fill(t.desk)
        with painting(still) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.fillRect(QRect(0, 0, HEAD, view.height()), t.raised)
            chosen = self.editor.now.widget
            feeding = set(sources(chosen)) if chosen is not None else set()
            span = self._bodies.span()
            for lane, top in self.stack.scrolled():
                self._paint_still(painter, lane, top, feeding, span)
            if self.stack.held:
                self._paint_top(painter, feeding, span)
            paint_run_starts(painter, self.editor.now.trace, self.scale, self.viewport().rect())
        return still

    def _paint_top(self, painter: QPainter, feeding: set[str], span: object) -> None:
        """Paint pinned lanes over the scrolled ones."""
        t, width, held = theme(), self.viewport().width(), self.stack.held
        painter.fillRect(QRect(0, 0, width, held), t.desk)
        painter.fillRect(QRect(0, 0, HEAD, held), t.raised)
        for lane, top in self.stack.stays():
            self._paint_still(painter, lane, top, feeding, span)
        painter.setPen(QPen(t.third, 1))
        painter.drawLine(0, held - 1, width, held - 1)

    def _paint_still(self, painter: QPainter, lane: Lane, top: int, feeding: set[str], span: object) -> None:
        t, width = theme(), self.viewport().width()
        chosen = is_selected(lane, self.editor.now.selection)
        if chosen:
            painter.fillRect(QRect(0, top, HEAD, lane.height), t.soft)
        painter.setPen(QPen(t.line, 1))
        painter.drawLine(0, top + lane.height - 1, width, top + lane.height - 1)
        self._bodies.paint(painter, lane, top, span)  # type: ignore[arg-type]
        self._heads.still(painter, lane, top, feeding, linked=chosen)

    # -- input ------------------------------------------------------------------------------------------------------

    def wheelEvent(self, event: QWheelEvent) -> None:
        keys = event.modifiers()
        turn = event.angleDelta()
        if keys & Qt.KeyboardModifier.ControlModifier:
            self.scale.zoom(0.85 ** (turn.y() / 120), self.scale.seconds(event.position().x()))
        elif keys & Qt.KeyboardModifier.ShiftModifier or turn.x():
            self.scale.pan(-(turn.x() or turn.y()) / 120 * self.scale.span * 0.1)
        else:
            bar = self.verticalScrollBar()
            bar.setValue(bar.value() - round(turn.y() / 120 * 40))
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if event.position().x() >= HEAD:
            self._scrubbing = True
            self.editor.do(go_to_seconds, self.scale.seconds(event.position().x()))
            return
        under = self.stack.at(event.position().y())
        if under is None:
            return
        lane, top = under
        if lane.sort in ("roster", "fold"):
            self._pressed = (lane, event.position())
            return
        if lane.sort == "widget" and press_aside(self.editor, lane.name, event.position(), top, lane.height):
            return
        if lane.sort == "variable" and value_box(lane, top).contains(event.position()):
            self.editor.do(select, selection_of(lane))
            self.pinning.press(lane, value_box(lane, top), event.position())
            return
        offers_link = not lane.declared or selection_of(lane) == self.editor.now.selection
        if lane.sort == "variable" and offers_link and link_box(lane, top).contains(event.position()):
            self.editor.do(select, selection_of(lane))
            self.edit(lane.name)
            return
        if lane.sort == "widget" and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.editor.do(toggle, lane.name)
            return
        self._pressed = (lane, event.position())
        self.editor.do(select, selection_of(lane))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        under = self.stack.at(event.position().y())
        if under is not None and under[0].sort == "variable" and event.position().x() < HEAD:
            if not value_box(*under).contains(event.position()):
                self._pressed = None
                self.edit(under[0].name)
        elif under is not None and under[0].sort == "widget" and ASIDE < event.position().x() < HEAD:
            self._pressed = None
            self.title_wanted.emit()
        else:
            self.mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._scrubbing:
            self.editor.do(go_to_seconds, self.scale.seconds(event.position().x()))
            return
        if self.pinning.pressed:
            self.pinning.drag(event.position())
            return
        if self._pressed is not None:
            lane, start = self._pressed
            if self._dragging or (event.position() - start).manhattanLength() >= DRAG_FROM:
                if not self._dragging:
                    self._dragging = key_of(lane)
                    self.setFocus()
                self.viewport().setCursor(Qt.CursorShape.ClosedHandCursor)
                self._carry(lane, event)
            return
        under = self.stack.at(event.position().y())
        over = under[0] if under is not None else None
        self._point_at(over.name if over is not None and over.sort == "widget" else "")
        self.viewport().setCursor(cursor_at(under, event.position()))
        told = self._tooltip_at(over, event.position().x())
        if told != self.viewport().toolTip():
            self.viewport().setToolTip(told)

    def _tooltip_at(self, lane: Lane | None, x: float) -> str:
        """Return a tooltip: the findings in a head, or an event."""
        if lane is not None and x < HEAD:
            return "\n".join(dict.fromkeys(f.why for f in self._heads.standing(lane)))
        return self._bodies.event_at(lane.name, x) if lane is not None and lane.sort == "event" else ""

    def _point_at(self, ident: str) -> None:
        if ident != self._hover:
            self._hover = ident
            self._update_tooltip()

    def leaveEvent(self, _event: QEvent) -> None:
        self._point_at("")

    def _carry(self, lane: Lane, event: QMouseEvent) -> None:
        """Move a lane among the heads, or drag a variable to the picture."""
        self._gap, at = None, event.position()
        if 0 <= at.x() < HEAD and self.stack.held <= at.y() < self.viewport().height():
            self.drag_cancelled.emit()
            self._gap = self._gap_at(at.y())[1]
        elif name := dragged_name(lane):
            self.drag_moved.emit(name, event.globalPosition().toPoint())
        self._update_tooltip()

    def _gap_at(self, y: float) -> tuple[str, int]:
        """Return the key of the lane before which a lane dropped at a height is inserted, "" for the end; and the y position."""
        for lane, top in self.stack.scrolled():
            if y < top + lane.height / 2:
                return key_of(lane), top
        return "", self.stack.tall - self.verticalScrollBar().value()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.pinning.pressed:
            self.pinning.release()
            return
        dragged, self._dragging = self._dragging, ""
        pressed, self._pressed = self._pressed, None
        gap, self._gap = self._gap, None
        self._scrubbing = False
        self.viewport().setCursor(Qt.CursorShape.ArrowCursor)
        if pressed is None:
            return
        lane = pressed[0]
        if gap is not None:
            self._put(dragged, self._gap_at(event.position().y())[0])
        elif dragged and (name := dragged_name(lane)):
            self.drag_ended.emit(name, event.globalPosition().toPoint())
        elif lane.sort in ("roster", "fold"):
            self.editor.do(fold, lane.name, opened=not lane.open)

    def _put(self, key: str, before: str) -> None:
        """Move a lane by hand before another one, "" for the end."""
        if key != before:
            self.editor.do(
                order_lanes_by_hand,
                moved_by_hand(self.editor.now, self._suggestions.names, self._checking.of_lane, key, before),
            )
            self.editor.say("The lanes are in your own order.  Other orders can be chosen below")

    def move_chosen(self, step: int) -> None:
        """Move the selected lane up or down."""
        chosen = self.editor.now.selection
        blocks = [lane for lane in self.lanes if lane.sort != "fold"]
        at = next((i for i, lane in enumerate(blocks) if is_selected(lane, chosen)), None)
        if at is None:
            return
        to = at - 1 if step < 0 else at + 2
        if 0 <= to <= len(blocks):
            self._put(key_of(blocks[at]), key_of(blocks[to]) if to < len(blocks) else "")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        choices = [selection_of(lane) for lane in self.lanes if lane.sort in ("widget", "variable")]
        chosen = self.editor.now.selection
        if key == Qt.Key.Key_Escape and self._dragging:
            self._dragging, self._pressed, self._gap = "", None, None
            self._update_tooltip()
            self.drag_cancelled.emit()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and event.modifiers() == Qt.KeyboardModifier.AltModifier:
            self.move_chosen(1 if key == Qt.Key.Key_Down else -1)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and choices and not event.modifiers():
            at = choices.index(chosen) if chosen in choices else -1
            step = 1 if key == Qt.Key.Key_Down else -1
            self.editor.do(select, choices[min(max(0, at + step), len(choices) - 1)])
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and event.modifiers() == Qt.KeyboardModifier.ShiftModifier:
            widgets = [lane.name for lane in self.lanes if lane.sort == "widget"]
            self.editor.do(extend_selection, widgets, 1 if key == Qt.Key.Key_Down else -1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and chosen.variable:
            self.offered.emit(chosen.variable)
        elif chosen.variable and key == Qt.Key.Key_P and not event.modifiers():
            self.pinning.toggle(chosen.variable)
        elif (
            chosen.variable
            and key in (Qt.Key.Key_Up, Qt.Key.Key_Down)
            and event.modifiers() & Qt.KeyboardModifier.ControlModifier
        ):
            self.pinning.step(chosen.variable, 1 if key == Qt.Key.Key_Up else -1)
        else:
            super().keyPressEvent(event)
