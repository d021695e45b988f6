"""Edit zones that a plate keeps clear, by mouse and keys in the picture."""

from __future__ import annotations

import math
from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen

from avrin.app.controls.theme import font
from avrin.app.painting.marks import handles
from avrin.app.services.editor import Editor
from avrin.binding.places import RulePlace
from avrin.editor.edits import edit, seal, set_rule
from avrin.edits.scenery import zones_set
from avrin.project.project import Zone
from avrin.render.layout import screen_fit
from avrin.render.plates import plate_rect
from avrin.render.zones import zone_rect

__all__ = ["Zones"]

Box = tuple[float, float, float, float]
INK = QColor("#ffb38a")
LONGEST = 60  # characters of a name
TAKE_AWAY = (Qt.Key.Key_Delete, Qt.Key.Key_Backspace)
STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class Zones:
    """The zones of the visible plate while they are edited. tell: called when another one is selected.

    A press in a zone grabs it, at its lower right corner its size; outside zones a drag creates one.
    """

    def __init__(self, editor: Editor, tell: Callable[[], None] = lambda: None) -> None:
        self.editor = editor
        self._tell = tell
        self._chosen: int | None = None
        self._from: QPointF | None = None
        self._was: Box | None = None
        self._sizes = False

    @property
    def chosen(self) -> int | None:
        """The index of the selected one, or None."""
        return self._chosen

    @chosen.setter
    def chosen(self, number: int | None) -> None:
        self._chosen = number
        self._tell()

    @property
    def zones(self) -> list[Zone]:
        """The existing zones."""
        return list(self.editor.now.plate.keep_clear) if self.editor.now.plate is not None else []

    @property
    def zone(self) -> Zone | None:
        """The selected one."""
        return self.zones[self.chosen] if self.chosen is not None and self.chosen < len(self.zones) else None

    def call(self, name: str) -> None:
        """Name the selected one."""
        if self.zone is not None and self.chosen is not None:
            self.editor.do(seal)
            self._put(self.chosen, replace(self.zone, name=" ".join(name.split())[:LONGEST]))

    def rects(self, area: QRectF) -> list[QRectF]:
        """Return their rectangles in a picture's area at the playhead; an empty one if the followed position is missing."""
        editor, plate = self.editor, self.editor.now.plate
        known = editor.now.tracks.bound.zones.get(plate.name, ()) if plate is not None else ()
        if plate is None or len(known) != len(plate.keep_clear):  # the new one is not bound yet
            return [QRectF()] * len(self.zones)
        zoom, found = area.width() / editor.now.view.screen.size[0], []
        for number in range(len(known)):
            x, y, wide, high = zone_rect(editor.now.tracks, plate, number, editor.now.view.screen, editor.now.frame)
            there = QRectF(area.x() + x * zoom, area.y() + y * zoom, wide * zoom, high * zoom)
            found.append(there if not math.isnan(x + y) else QRectF())
        return found

    def _reference(self, point: QPointF, area: QRectF) -> QPointF:
        """Convert a picture point to the plate's reference pixels, or relative to the position the selected zone follows."""
        screen, project = self.editor.now.view.screen, self.editor.now.project
        zoom, zone = area.width() / screen.size[0], self.zone
        under = plate_rect(project, self.editor.now.plate, screen, self.editor.now.folder)
        found = []
        for axis, at in enumerate(((point.x() - area.x()) / zoom, (point.y() - area.y()) / zoom)):
            if zone is not None and (zone.x, zone.y)[axis]:
                found.append(at / screen_fit(project, screen))
            else:
                found.append((at - under[axis]) * project.reference[axis] / under[axis + 2])
        return QPointF(*found)

    def press(self, point: QPointF, area: QRectF) -> None:
        """Grab a zone, or create one."""
        self.editor.do(seal)
        self._was, self._sizes = None, False
        rects = self.rects(area)
        if self.chosen is not None and self.chosen < len(rects) and _corner(rects[self.chosen]).contains(point):
            self._was, self._sizes = self.zones[self.chosen].box, True
        else:
            self.chosen = self.zone_at(point, area)
            if self.chosen is not None:
                self._was = self.zones[self.chosen].box
        self._from = self._reference(point, area)

    def drag(self, point: QPointF, area: QRectF) -> None:
        """Draw, move or resize it."""
        if self._from is None:
            return
        to = self._reference(point, area)
        way = to - self._from
        if self._was is None:
            drawn = QRectF(self._from, to).normalized()
            box = (round(drawn.x()), round(drawn.y()), round(drawn.width()), round(drawn.height()))
            if self.chosen is None:
                if min(box[2], box[3]) < 8:
                    return
                self._put(len(self.zones), Zone(box=box))
                self.chosen = len(self.zones) - 1
            self._move(box)
        elif self.chosen is not None:
            x, y, w, h = self._was
            if self._sizes:
                self._move((x, y, max(8, round(w + way.x())), max(8, round(h + way.y()))))
            else:
                self._move((round(x + way.x()), round(y + way.y()), w, h))

    def place(self, box: Box) -> None:
        """Set the selected one's numbers."""
        self.editor.do(seal)
        self._move(box)

    def follow(self, axis: str, rule: str) -> None:
        """Make the selected one follow a rule along an axis, centred on it; "" fixes it where it is now."""
        editor, zone, plate = self.editor, self.zone, self.editor.now.plate
        if zone is None or self.chosen is None or plate is None:
            return
        at = "xy".index(axis)
        before, rule = getattr(zone, axis), rule.strip()
        place = RulePlace("plate", plate.name, "zones", str(self.chosen), axis)
        now = zone_rect(editor.now.tracks, plate, self.chosen, editor.now.view.screen, editor.now.frame)[at]
        under = plate_rect(editor.now.project, plate, editor.now.view.screen, editor.now.folder)
        editor.do(seal)
        editor.do(set_rule, place, rule)
        if bool(before) != bool(rule) and self.zone is not None:
            box = list(self.zone.box)
            box[at] = (
                -box[at + 2] / 2
                if rule
                else 0.0
                if math.isnan(now)
                else round((now - under[at]) * editor.now.project.reference[at] / under[at + 2])
            )
            self._put(self.chosen, replace(self.zone, box=(box[0], box[1], box[2], box[3])), f"rule {place}")
        error = editor.now.bound.errors.get(place)
        if error is not None:
            editor.say(str(error), error=True)

    def zone_at(self, point: QPointF, area: QRectF) -> int | None:
        """Return the index of the topmost one at a point, or None."""
        return next((i for i, rect in reversed([*enumerate(self.rects(area))]) if rect.contains(point)), None)

    def take_along(self, number: int, x: str, y: str) -> None:
        """Make one follow a position given by two rules, centred on it. One undo step."""
        self.chosen = number
        zone = self.zones[number]
        _, _, wide, high = zone.box
        self.editor.do(seal)
        self._put(number, replace(zone, x=x, y=y, box=(-wide / 2, -high / 2, wide, high)))
        self.editor.do(seal)
        self._tell()

    def _move(self, box: Box) -> None:
        if self.zone is not None and self.chosen is not None:
            self._put(self.chosen, replace(self.zone, box=box))

    def release(self) -> None:
        """End the drag."""
        self._from = None
        self.editor.do(seal)

    def wants(self, event: QKeyEvent) -> bool:
        """Return whether a key acts on the selected one."""
        return self.zone is not None and (event.key() in TAKE_AWAY or Qt.Key(event.key()) in STEPS)

    def key(self, event: QKeyEvent) -> bool:
        """Handle Delete and the arrow keys for the selected one; return whether the key was handled."""
        zone, step = self.zone, STEPS.get(Qt.Key(event.key()))
        if not self.wants(event) or self.chosen is None or zone is None:
            return False
        if event.key() in TAKE_AWAY:
            number, self.chosen = self.chosen, None
            self._put(number, None)
        elif step is not None:
            x, y, w, h = zone.box
            by = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            self._move((x + step[0] * by, y + step[1] * by, w, h))
        return True

    def _put(self, number: int, zone: Zone | None, merge: str = "") -> None:
        """Replace or remove a zone. merge: the undo step it belongs to; by default that of the plate."""
        plate = self.editor.now.plate
        assert plate is not None  # zones are edited only while a plate is visible
        zones = self.zones
        zones[number : number + 1] = [zone] if zone is not None else []
        made = zones_set(self.editor.now.project, plate.name, zones)
        self.editor.do(edit, made, f"zones of {plate.name}", merge or f"zones {plate.name}")

    def paint(self, painter: QPainter, area: QRectF) -> None:
        """Paint all of them with their names, the selected one with its handle."""
        painter.setFont(font("small", True))
        for number, (rect, zone) in enumerate(zip(self.rects(area), self.zones, strict=True)):
            if rect.isEmpty():
                continue
            painter.setPen(QPen(INK, 2 if number == self.chosen else 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(QColor(255, 179, 138, 60 if number == self.chosen else 34))
            painter.drawRect(rect)
            painter.setPen(INK)
            name = painter.fontMetrics().elidedText(
                zone.name, Qt.TextElideMode.ElideRight, max(0, round(rect.width()) - 12)
            )
            painter.drawText(rect.adjusted(6, 4, -6, -4), name)
            if number == self.chosen:
                painter.setPen(QPen(QColor("#142027"), 1))
                painter.setBrush(QColor("#ffffff"))
                painter.drawRect(handles(rect)[3])


def _corner(rect: QRectF) -> QRectF:
    return handles(rect)[3].adjusted(-4, -4, 4, 4)
