"""Mouse and keyboard input of the HUD picture: select, move and resize widgets, draw zones, pick colours."""

from __future__ import annotations

import functools
from collections.abc import Callable, Collection, Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
)

from avrin.app.bind_desk.picture.drag import Drag
from avrin.app.bind_desk.picture.hints import beginning_line
from avrin.app.bind_desk.picture.picture_view import PictureView
from avrin.app.controls.theme import theme
from avrin.app.painting import marks
from avrin.app.painting.offscreen import painting
from avrin.app.services.comparison import Comparison
from avrin.app.services.editor import Editor
from avrin.app.services.extents import Extents
from avrin.app.services.video_decoder import VideoDecoder
from avrin.editor.arranging import nudge, say_locked, selection_title, unlocked
from avrin.editor.by_hand import press_action
from avrin.editor.edits import edit, seal, set_widget
from avrin.editor.layout import free_all, show_slot
from avrin.editor.selecting import select_widget, select_widgets, toggle
from avrin.edits.placing import anchored_there, moved
from avrin.edits.snapping import across, down, held
from avrin.render.layout import Rect, anchor_point, safe_area, screen_scale
from avrin.render.scene import widget_rect

if TYPE_CHECKING:
    from avrin.app.bind_desk.picture.zones import Zones

__all__ = ["HudView"]

CURSORS = (Qt.CursorShape.SizeFDiagCursor, Qt.CursorShape.SizeBDiagCursor) * 2
LEAST = 8.0  # reference pixels below which a widget cannot be resized


class HudView(PictureView):
    """Turns clicks, drags and arrow keys into selections and positions."""

    first_hud_wanted = Signal()
    menu_wanted = Signal(QPoint)
    place_wanted = Signal()

    def __init__(self, editor: Editor, comparison: Comparison, extents: Extents, video: VideoDecoder) -> None:
        super().__init__(editor, comparison, extents, video)
        self._carried: QPointF | None = None  # where the picture was grabbed while it is panned
        self._swept: tuple[str, ...] = ()  # the selection before a rectangle selection
        self._dropper: Callable[[str], None] | None = None  # receives the colour of the next press

    @property
    def zones(self) -> Zones | None:
        """The editor of the plate's zones, None if inactive."""
        return self._zones

    def edit_zones(self, zones: Zones | None) -> None:
        """Start or end editing the plate's zones."""
        self._zones = zones
        if zones is not None:
            self.installEventFilter(self)  # to receive keys that are commands of the window otherwise
        else:
            self.removeEventFilter(self)
        self.update()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """While zones are edited, keep their keys from running commands."""
        asked = event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent)
        if asked and self._zones is not None and self._zones.wants(event):  # type: ignore[arg-type]
            event.accept()
            return True
        return super().eventFilter(watched, event)

    def behind(self, ident: str) -> QColor:
        """Return the mean colour of the plate behind a widget."""
        project = self.editor.now.project
        found = widget_rect(project, project.widget(ident), self.editor.now.view.screen)
        plate = self.ground.whole()
        part = QRectF(*found).toAlignedRect().intersected(plate.rect())
        if part.isEmpty():
            return theme().under
        small = plate.copy(part).scaled(
            1, 1, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation
        )
        return small.pixelColor(0, 0)

    def take_colour(self, taken: Callable[[str], None]) -> None:
        """Let the next press pick the colour below it, of plate or widget."""
        self._dropper = taken
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setFocus()

    def _drop_colour(self, at: QPointF) -> None:
        taken, self._dropper = self._dropper, None
        self.unsetCursor()
        area = self.picture_rect()
        if taken is None or not area.contains(at):
            return
        image = QImage(1, 1, QImage.Format.Format_RGB32)
        with painting(image) as painter:
            painter.translate(-((at - area.topLeft()) / self._zoom()))
            self._paint_part(painter, QRectF(0, 0, *self.editor.now.view.screen.size))
        taken(image.pixelColor(0, 0).name())

    # -- input ------------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.MiddleButton:
            self._carried = event.position()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if self._pressed_otherwise(event.position()):
            return
        if self._offers_first and beginning_line(self.picture_rect()).contains(event.position()):
            self.first_hud_wanted.emit()
            return
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and (ident := self.widget_at(event.position())):
            self.editor.do(toggle, ident)
            return
        if self._away_rect is not None and self._away_rect.contains(event.position()):
            self.editor.do(free_all)
            return
        tag = self.tag_rect
        if tag is not None and tag.contains(event.position()):
            self.place_wanted.emit()
            return
        if ident := self.widget_at(event.position()):
            self.editor.do(show_slot, ident, self.slot_at(event.position()))
        if self._corner_at(event.position()) is None and self.grips.press(event.position()):
            return
        self._take_hold(event)

    def _pressed_otherwise(self, at: QPointF) -> bool:
        """Handle a press while a colour is picked, zones are edited, or the game is driven; return whether it was one."""
        if self._dropper is not None:
            self._drop_colour(at)
            return True
        if self.before.is_at(at, self.picture_rect()):
            self.before.dragged = True
        elif self._zones is not None:
            self._zones.press(at, self.picture_rect())
        elif button := self._button_at(at):
            self._held = button
            self.editor.do(press_action, button)
        else:
            return False
        self.update()
        return True

    def _take_hold(self, event: QMouseEvent) -> None:
        """Start dragging a corner, the selection, or the widget below; on an empty spot start a rectangle selection."""
        editor, point = self.editor, event.position()
        corner, ident, picks = self._corner_at(point), self.widget_at(point), ""
        if corner is None:
            locked = editor.now.locked
            hidden = any(
                one not in self._shown() and one not in locked and self.box_of(one).contains(point)
                for one in editor.now.chosen
            )
            if not hidden and not ident:
                self._swept = editor.now.chosen if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else ()
                self._sweep = QRectF(point, point)
                editor.do(select_widgets, *self._swept)
                return
            if not hidden and ident not in editor.now.selection.widgets:
                editor.do(select_widget, ident)
            elif len(editor.now.selection.widgets) > 1:
                picks = ident
        if editor.now.widget is not None:
            self._drag = Drag(point, editor.now.project, editor.now.widget.widget, corner, picks)

    def _wipes(self, at: QPointF) -> bool:
        """Return whether the pointer is on the comparison's wipe line, or drags it."""
        area = self.picture_rect()
        if self.before.dragged:
            self.before.drag(at, area)
            return True
        free = self._sweep is None and self._drag is None
        if free and self.before.is_at(at, area):
            self.setCursor(Qt.CursorShape.SplitHCursor)
            return True
        return False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._carried is not None:
            self._pan(event.position() - self._carried)
            self._carried = event.position()
            return
        if self._wipes(event.position()):
            return
        if self._sweep is not None:
            self._sweep.setBottomRight(event.position())
            area = self._sweep.normalized()
            locked = self.editor.now.locked
            inside = [
                item.ident for item in self.placed
                if item.ident not in locked and area.intersects(self.to_view(item.rect))
            ]  # fmt: skip
            self.editor.do(select_widgets, *dict.fromkeys((*self._swept, *inside)))
            self.update()
            return
        if self._drag is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._dragged(event)
            return
        if self.grips.held:
            self.grips.drag(event.position())
            return
        if self._zones is not None:
            self.setCursor(Qt.CursorShape.CrossCursor)
            self._zones.drag(event.position(), self.picture_rect())
            return
        if self._dropper is not None:
            return
        corner = self._corner_at(event.position())
        hover = self.widget_at(event.position())
        grip = self.grips.cursor(event.position()) if corner is None else None
        if grip is not None or self._pointer is not None:
            self._pointer = event.position() if grip is not None else None
            self.update()
        if grip is not None:
            self.setCursor(grip)
            return
        self.setCursor(
            Qt.CursorShape.PointingHandCursor
            if self._offers_first and beginning_line(self.picture_rect()).contains(event.position())
            else CURSORS[(0, 1, 1, 0)[corner]] if corner is not None
            else Qt.CursorShape.OpenHandCursor if hover else Qt.CursorShape.ArrowCursor
        )  # fmt: skip
        if hover != self._hover:
            self._hover = hover
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._carried = None
        self.before.dragged = False
        if self._zones is not None:
            self._zones.release()
        if self._held:
            self._held = ""
            self.update()
        if self._sweep is not None:
            self._sweep = None
            self.update()
        if self._drag is not None and self._drag.moving and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._anchor(self._drag)  # before anything ends the step
        self.grips.release(moved=self._drag is not None and self._drag.moving)
        if self._drag is not None:
            drag, self._drag, self._lines = self._drag, None, []
            if drag.picks and not drag.moving:
                self.editor.do(select_widget, drag.picks)
            self.editor.do(seal)
            self.update()

    def _anchor(self, drag: Drag) -> None:
        """Anchor what was dragged to what it is near now, as a part of the same step; Ctrl keeps the anchor."""
        now = self.editor.now
        chosen = [drag.widget.id] if drag.corner is not None else unlocked(now)
        merge = f"size {drag.widget.id}" if drag.corner is not None else " ".join(("drag", *chosen))
        label = f"resize {drag.widget.title}" if drag.corner is not None else f"move {selection_title(now)}"
        self.editor.do(edit, anchored_there(now.project, chosen, now.view.screen), label, merge)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        ident = self.widget_at(QPointF(event.pos()))
        if (
            event.reason() == QContextMenuEvent.Reason.Mouse
            and ident
            and ident not in self.editor.now.selection.widgets
        ):
            self.editor.do(select_widget, ident)
        self.menu_wanted.emit(event.globalPos())

    def leaveEvent(self, _event: object) -> None:
        self._hover, self._pointer = "", None
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1),
        }  # fmt: skip
        if event.key() == Qt.Key.Key_Escape and self._dropper is not None:
            self._dropper = None
            self.unsetCursor()
            return
        if self._zones is not None and self._zones.key(event):
            self.update()
            return
        step = steps.get(Qt.Key(event.key()))
        alt = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        if step is not None and alt and self.editor.now.widget is not None:
            by = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            self.editor.do(nudge, step[0] * by, step[1] * by)
        else:
            super().keyPressEvent(event)

    def _corner_at(self, point: QPointF) -> int | None:
        chosen = self.editor.now.widget
        if chosen is None or len(self.editor.now.selection.widgets) > 1 or chosen.widget.id in self.editor.now.locked:
            return None
        rect = self.box_of(chosen.widget.id)
        for i, handle in enumerate(marks.handles(rect)):
            if handle.adjusted(-3, -3, 3, 3).contains(point):
                return i
        return None

    def _dragged(self, event: QMouseEvent) -> None:
        drag = self._drag
        assert drag is not None
        way = event.position() - drag.start
        if not drag.moving and way.manhattanLength() < 4:
            return
        drag.moving = True
        unit = self._zoom() * screen_scale(self.editor.now.project, self.editor.now.view.screen)
        dx, dy = way.x() / unit, way.y() / unit
        self.editor.do(say_locked)
        chosen = unlocked(self.editor.now)
        self._lines = []
        if not event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier):
            dx, dy = self._snapped(drag, chosen, dx, dy, unit)
        if drag.corner is not None:
            self._size(drag, dx, dy)
            return
        x, y = drag.widget.place.offset
        dx, dy = round(x + dx) - x, round(y + dy) - y  # the dragged widget snaps to whole pixels
        made, merge = moved(drag.project, chosen, dx, dy), " ".join(("drag", *chosen))
        self.editor.do(edit, made, f"move {selection_title(self.editor.now)}", merge)

    def _size(self, drag: Drag, dx: float, dy: float) -> None:
        """Drag one corner; the opposite one is fixed."""
        assert drag.corner is not None
        place = drag.widget.place
        cx, cy = marks.CORNERS[drag.corner]
        px, py = anchor_point(place.pivot)
        grow_x, grow_y = (dx if cx else -dx), (dy if cy else -dy)
        width, height = max(LEAST, place.size[0] + grow_x), max(LEAST, place.size[1] + grow_y)
        more_x, more_y = width - place.size[0], height - place.size[1]
        # Left edge = offset − pivot · size; it is fixed when the right corner is dragged and moves by −growth otherwise.
        x = place.offset[0] + more_x * (px if cx else px - 1)
        y = place.offset[1] + more_y * (py if cy else py - 1)
        changed = replace(
            place, offset=(float(round(x)), float(round(y))), size=(float(round(width)), float(round(height)))
        )
        self.editor.do(
            set_widget, replace(drag.widget, place=changed), f"resize {drag.widget.title}", f"size {drag.widget.id}"
        )

    def _snapped(self, drag: Drag, chosen: Collection[str], dx: float, dy: float, unit: float) -> tuple[float, float]:
        """Snap a move to edges and centres of the safe area and other widgets."""
        boxes = [
            self.to_view(widget_rect(drag.project, drag.project.widget(ident), self.editor.now.view.screen))
            for ident in chosen
        ]
        box = functools.reduce(QRectF.united, boxes).translated(dx * unit, dy * unit)
        mine: tuple[Sequence[float], Sequence[float]] = (across(_rect(box)), down(_rect(box)))
        if drag.corner is not None:  # only its two edges move
            right, low = marks.CORNERS[drag.corner]
            mine = ((box.right() if right else box.left(),), (box.bottom() if low else box.top(),))
        others = [_rect(self.to_view(placed.rect)) for placed in self.placed if placed.ident not in chosen]
        safe, whole = self.to_view(safe_area(self.editor.now.view.screen)), _rect(box) if drag.corner is None else None
        move, lines = held(mine, others, _rect(safe), _rect(self.picture_rect()), whole)
        self._lines = [(QPointF(*a), QPointF(*b)) for a, b in lines]
        return dx + move[0] / unit, dy + move[1] / unit


def _rect(box: QRectF) -> Rect:
    return Rect(box.x(), box.y(), box.width(), box.height())
