"""The HUD picture: widgets over a plate on the visible screen at the playhead, with marks around the selection."""

from __future__ import annotations

import functools
import math
from collections.abc import Collection
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QRegion, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from avrin.app.bind_desk.picture.comparison_painter import GAP, ComparisonPainter
from avrin.app.bind_desk.picture.drag import Drag
from avrin.app.bind_desk.picture.grips import Grips
from avrin.app.bind_desk.picture.ground import Ground
from avrin.app.bind_desk.picture.hints import paint_beginning, paint_faults
from avrin.app.bind_desk.picture.zoom import GRID_FROM, Zoom, fitted
from avrin.app.controls.assistive import Assisted, Part, Role
from avrin.app.controls.focus import Ringed, ring
from avrin.app.controls.theme import theme
from avrin.app.painting import marks
from avrin.app.painting.offscreen import painting
from avrin.app.painting.paint import draw_shapes
from avrin.app.painting.widget_cache import Layers
from avrin.app.services.comparison import Comparison
from avrin.app.services.editor import Editor
from avrin.app.services.extents import Extents
from avrin.app.services.video_decoder import VideoDecoder
from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.editor.changes import Change
from avrin.editor.selecting import select_widget
from avrin.i18n.own_language import OWN
from avrin.kinds.shapes import Group
from avrin.project.project import Widget
from avrin.render.layout import Rect, safe_area, screen_scale
from avrin.render.scene import Placed, drawn_widget, scene, widget_rect
from avrin.render.stage import Stage
from avrin.screens.spoken import Spoken

if TYPE_CHECKING:
    from avrin.app.bind_desk.picture.zones import Zones

__all__ = ["PictureView"]

MOST_REACHES = 1000  # cached


class PictureView(Ringed, Assisted, QWidget):
    """Paints the scene, and marks for the selection, hover, drags and drops."""

    def __init__(self, editor: Editor, comparison: Comparison, extents: Extents, video: VideoDecoder) -> None:
        super().__init__()
        self.editor = editor
        self._extents, self._video = extents, video
        self._spoken: Spoken | None = None
        self.setMinimumSize(320, 180)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("HUD picture")
        self.ground = Ground(editor, video)
        self._screen = editor.now.view.screen
        self._still_said = ""
        self._stage = Stage()
        self._layers = Layers()
        self._marked = QRegion()  # where marks were painted last
        self._reaches: dict[int, tuple[Placed, QRect]] = {}  # by identity
        self._hover = ""
        self.closer = Zoom()
        self._drag: Drag | None = None
        self._sweep: QRectF | None = None  # the selection rectangle
        self._lines: list[tuple[QPointF, QPointF]] = []
        self._coming: tuple[BoundWidget, Tracks] | None = None
        self._target = ""
        self._zones: Zones | None = None  # of the plate, while they are edited
        self._held = ""  # the pressed button
        self.grips = Grips(editor, self.box_of)
        self.before = ComparisonPainter(editor, comparison, video)
        self._pointer: QPointF | None = None
        editor.follow("picture", self)

    def on_change(self, change: Change) -> None:
        """Repaint what changed: mostly a few widgets."""
        if change.of("view", "comparison"):
            self._new_view()
        if change.of("film"):
            self._film_goes_on()
        if change.of("recording", "selection", "layout", "extent"):
            self.update()
        elif change.of("tracks"):
            self._project_changed()
        elif change.of("playhead"):
            self._frame_changed()

    assisted_role = Role.Graphic

    def assisted_parts(self) -> list[Part]:
        """Return each visible widget by title, with its position; a press selects it."""
        editor = self.editor
        return [
            Part(
                editor.now.bound.widgets[item.ident].widget.title, self.to_view(item.rect), Role.Graphic,
                self._place_text(editor.now.bound.widgets[item.ident].widget, True),
                item.ident in editor.now.selection.widgets, functools.partial(editor.do, select_widget, item.ident),
            )
            for item in self.placed if item.ident in editor.now.bound.widgets
        ]  # fmt: skip

    # -- geometry ---------------------------------------------------------------------------------------------------

    def picture_rect(self) -> QRectF:
        """Return the rectangle of the screen's picture: fitted, or zoomed."""
        if self.before.beside:  # both as large as fit, the earlier one on the left
            half = (self.width() - GAP) / 2
            area = QRectF(*fitted(self.editor.now.view.screen.size, int(half), self.height()))
            return area.translated(self.width() - half, (self.height() - area.height()) / 3)
        return self.closer.area(self.editor.now.view.screen.size, (self.width(), self.height()))

    def seen_rect(self) -> QRectF:
        """Return its visible part."""
        return self.picture_rect().intersected(QRectF(self.rect()))

    def _zoom(self) -> float:
        return self.picture_rect().width() / self.editor.now.view.screen.size[0]

    def to_view(self, rect: Rect) -> QRectF:
        """Convert a rectangle of the screen to view coordinates."""
        area = self.picture_rect()
        zoom = area.width() / self.editor.now.view.screen.size[0]
        return QRectF(area.x() + rect.x * zoom, area.y() + rect.y * zoom, rect.width * zoom, rect.height * zoom)

    def to_reference(self, point: QPointF) -> tuple[float, float]:
        """Convert a view point to reference pixels relative to the safe area's corner, like anchors."""
        area, zoom = self.picture_rect(), self._zoom()
        scale = screen_scale(self.editor.now.project, self.editor.now.view.screen)
        return ((point.x() - area.x()) / zoom / scale, (point.y() - area.y()) / zoom / scale)

    def widget_at(self, point: QPointF) -> str:
        """Return the id of the topmost visible unlocked widget at a point, or ""."""
        return self.any_at(point, self.editor.now.locked)

    def any_at(self, point: QPointF, but: Collection[str] = ()) -> str:
        """Return the id of the topmost visible widget at a point, or "". but: ignored ids."""
        for item in reversed(self.placed):
            if item.ident not in but and self.to_view(item.rect).adjusted(-3, -3, 3, 3).contains(point):
                return item.ident
        return ""

    def slot_at(self, point: QPointF) -> int:
        """Return the slot of the topmost visible widget at a point, or 0."""
        ident = self.widget_at(point)
        found = (one for one in reversed(self.placed) if one.ident == ident and self.to_view(one.rect).contains(point))
        return next((one.slot for one in found), 0)

    def _button_at(self, point: QPointF) -> str:
        """Return the button at a point that can be pressed: only while driving, otherwise it is selected."""
        ident = self.any_at(point) if self.editor.now.live is not None else ""
        found = self.editor.now.bound.widgets.get(ident)
        return ident if found is not None and found.kind.pressed else ""

    @property
    def placed(self) -> list[Placed]:
        """The visible widgets in drawing order, as last shown."""
        return self._stage.placed

    # -- painting ---------------------------------------------------------------------------------------------------

    def _new_view(self) -> None:
        """Handle another screen or plate."""
        if self._screen != self.editor.now.view.screen:
            self._screen = self.editor.now.view.screen
            self.closer.fit()
        if self.before.beside:
            self.closer.fit()
        self._new_ground()

    def _film_goes_on(self) -> None:
        """Repaint if another film frame is available or due."""
        if self.isVisible() and (self.ground.film_goes_on() or self._still != self._still_said):
            self._still_said = self._still
            self._new_ground()

    def _new_ground(self) -> None:
        self.ground.forget()
        self._reaches.clear()
        self.update()

    def _spoken_tracks(self) -> Tracks:
        """Return the tracks in the visible language, falling back to the project's own.

        Widgets are not mirrored, so that editing handles are where they appear.
        """
        now = self.editor.now
        if now.view.language == OWN:
            return now.tracks
        if self._spoken is None or not self._spoken.holds(now.tracks):
            self._spoken = Spoken(now.tracks, mirror=False)
        return self._spoken.tracks_or_own(now.view.language)

    def _show(self) -> list[Placed] | None:
        """Update the scene to the current frame; return what was removed or added, None for everything."""
        touch = "held" if self._held else "hover" if self.editor.now.live is not None else ""
        hot = {self._held or self._hover: touch} if touch else {}
        editor = self.editor
        return self._stage.show(self._spoken_tracks(), editor.now.frame, editor.now.view.screen, hot, editor.now.hidden)

    def _frame_changed(self) -> None:
        """Repaint what changed since the previous frame; everything if marks may have moved."""
        self._film_goes_on()
        changed = self._show()
        marked = {*self.editor.now.selection.widgets, self._hover, self._target}
        if (
            changed is None
            or self._zones is not None
            or self._coming is not None
            or self._follows
            or self.before.shown
            or any(self._strays(i, marked) for i in changed)
        ):
            self.update()
            return
        region, latest = QRegion(), QRect()
        for item in changed:  # old and new state of a widget: mostly the same place, and few rectangles clip faster
            pixels = self._pixels(item)
            if pixels.intersects(latest):
                latest = latest.united(pixels)
            else:
                region += latest
                latest = pixels
        self.update(region + latest)

    def _project_changed(self) -> None:
        """Repaint the widgets that an edit moved; otherwise everything."""
        editor = self.editor
        marked = self._marked
        changed = self._show() if editor.now.just_moved and self.closer.scale is None and self._coming is None else None
        if changed is None or editor.now.bound.errors or self.before.shown:
            self.update()
            return
        region = marked + self._marks_reach()
        for item in changed:
            region += self._pixels(item)
        self.update(region)

    def _marks_reach(self) -> QRegion:
        """Return the region of marks around the selection, and of its snapping lines."""
        chosen, region = self.editor.now.chosen, QRegion()
        if len(chosen) == 1:
            safe, box = self.to_view(safe_area(self.editor.now.view.screen)), self.box_of(chosen[0])
            region += marks.reach(self.editor.now.project.widget(chosen[0]).place, box, safe)
            found = self._extents.largest
            if found is not None and found.grows:
                return QRegion(self.rect())
        else:
            for ident in chosen:
                region += self.box_of(ident).adjusted(-8, -8, 8, 8).toAlignedRect()
        for start, end in self._lines:
            region += QRectF(start, end).normalized().adjusted(-2, -2, 2, 2).toAlignedRect()
        return region

    @property
    def _follows(self) -> bool:
        """Return whether the selected widget's marks follow something that moves."""
        chosen = self.editor.now.widget
        return chosen is not None and chosen.widget.place.follow is not None

    def _strays(self, item: Placed, marked: set[str]) -> bool:
        """Return whether a mark around a widget depends on where it is drawn."""
        if item.ident not in marked:
            return False
        return sum(other.ident == item.ident and other.rect == item.rect for other in self._stage.placed) != 1

    def _pixels(self, item: Placed) -> QRect:
        """Return a widget's bounds in whole pixels of this view, including antialiasing."""
        known = self._reaches.get(id(item))
        if known is None or known[0] is not item:
            if len(self._reaches) > MOST_REACHES:
                self._reaches.clear()
            x, y, width, height = item.reach
            area, spill = (
                self.picture_rect(),
                2 + math.ceil(self._zoom()),
            )  # a screen pixel may be many view pixels
            zoom = area.width() / self.editor.now.view.screen.size[0]
            x, y = math.floor(area.x() + x * zoom) - spill, math.floor(area.y() + y * zoom) - spill
            known = (
                item,
                QRect(x, y, math.ceil(width * zoom) + 2 * spill + 1, math.ceil(height * zoom) + 2 * spill + 1),
            )
            self._reaches[id(item)] = known
        return known[1]

    def resizeEvent(self, _event: QResizeEvent) -> None:
        self.closer.pan(QPointF(), self.editor.now.view.screen.size, (self.width(), self.height()))
        self._new_ground()

    # -- zoom -------------------------------------------------------------------------------------------------------

    def zoom(self, steps: float, about: QPointF | None = None) -> None:
        """Zoom in or out by some steps about a point; by key, about the selection or the visible centre."""
        if self.before.beside:
            return  # both are shown whole
        self.closer.zoom(
            steps, about or self._middle(), self.editor.now.view.screen.size, (self.width(), self.height())
        )
        self._new_ground()

    def look(self, scale: float) -> None:
        """Zoom to a number of view pixels per screen pixel."""
        if self.before.beside:
            return
        self.closer.look(scale, self._middle(), self.editor.now.view.screen.size, (self.width(), self.height()))
        self._new_ground()

    def fit(self) -> None:
        """Fit the whole picture."""
        self.closer.fit()
        self._new_ground()

    def _middle(self) -> QPointF:
        chosen = self.editor.now.chosen
        box = self.box_of(chosen[0]) if chosen else self.seen_rect()
        return box.center() if self.seen_rect().contains(box.center()) else self.seen_rect().center()

    def _pan(self, by: QPointF) -> None:
        self.closer.pan(by, self.editor.now.view.screen.size, (self.width(), self.height()))
        self._new_ground()

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn, keys = event.angleDelta(), event.modifiers()
        if keys & Qt.KeyboardModifier.ControlModifier:
            self.zoom(turn.y() / 120, event.position())
        elif self.closer.scale is not None:
            way = QPointF(turn.y(), turn.x()) if keys & Qt.KeyboardModifier.ShiftModifier else QPointF(turn)
            self._pan(way / 2)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        area = self.picture_rect()
        if self.closer.scale is not None:
            painter.fillRect(self.rect(), theme().desk)
            self._show()
            self._paint_closely(painter, area, self.closer.scale)
            self.before.paint(painter, area, self.devicePixelRatioF())
            paint_faults(painter, self.editor.now, self._drawn_idents, self.to_view)
            self._paint_marks(painter, event.region())
            return
        ground = self.ground.at(area, self.devicePixelRatioF())
        left, right, bottom = area.left(), self.width() - area.right(), self.height() - area.bottom()
        for beside in (
            QRectF(0, 0, left, self.height()),
            QRectF(area.right(), 0, right, self.height()),
            QRectF(left, area.bottom(), area.width(), bottom),
            QRectF(left, 0, area.width(), area.top()),
        ):
            painter.fillRect(beside, theme().desk)
        painter.drawPixmap(area.topLeft(), ground)
        self._show()
        painter.save()
        painter.setClipRect(area)
        painter.translate(area.topLeft())
        painter.scale(self._zoom(), self._zoom())
        touched = self._stage.placed
        if event.rect() != self.rect():
            region = event.region()
            touched = [item for item in touched if region.intersects(self._pixels(item))]
        self._layers.draw(painter, touched, self._stage.placed)
        if self._coming is not None:
            self._paint_coming(painter)
        painter.restore()
        self.before.paint(painter, area, self.devicePixelRatioF())
        if not self.editor.now.project.widgets and self._coming is None:
            paint_beginning(painter, area, recorded=bool(self.editor.now.trace.columns))
        paint_faults(painter, self.editor.now, self._drawn_idents, self.to_view)
        self._paint_marks(painter, event.region())

    def _paint_closely(self, painter: QPainter, area: QRectF, scale: float) -> None:
        """Paint the visible part of the screen as the game would, with its pixels enlarged."""
        screen = QRectF(0, 0, *self.editor.now.view.screen.size)
        seen = QRectF(self.rect()).translated(-area.topLeft())
        part = QRectF(seen.x() / scale, seen.y() / scale, seen.width() / scale, seen.height() / scale).intersected(
            screen
        )
        if scale < 1:
            painter.save()
            painter.setClipRect(area)
            painter.translate(area.topLeft())
            painter.scale(scale, scale)
            self._paint_part(painter, part)
            painter.restore()
            return
        pixels = part.toAlignedRect()
        image = QImage(pixels.size(), QImage.Format.Format_RGB32)
        with painting(image) as inner:
            inner.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
            inner.translate(-pixels.topLeft())
            self._paint_part(inner, QRectF(pixels))
        there = QRectF(
            area.x() + pixels.x() * scale,
            area.y() + pixels.y() * scale,
            pixels.width() * scale,
            pixels.height() * scale,
        )
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        painter.drawImage(there, image)
        if scale >= GRID_FROM:
            marks.grid(painter, there, scale)

    def _paint_part(self, painter: QPainter, part: QRectF) -> None:
        """Paint plate and widgets of a part of the screen, in its pixels."""
        painter.drawImage(part, self.ground.whole(), part)
        draw_shapes(painter, [item.group for item in self._stage.placed if part.intersects(QRectF(*item.reach))])
        if self._coming is not None:
            self._paint_coming(painter)

    def face(self, width: int) -> QImage:
        """Return the HUD without marks, scaled to a width in pixels."""
        area = QRectF(*fitted(self.editor.now.view.screen.size, self.width(), self.height()))
        whole = QImage(area.size().toSize(), QImage.Format.Format_RGB32)
        with painting(whole) as painter:
            painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawPixmap(0, 0, self.ground.of(area, self.devicePixelRatioF()))
            editor = self.editor
            painter.scale(area.width() / editor.now.view.screen.size[0], area.width() / editor.now.view.screen.size[0])
            draw_shapes(
                painter, [item.group for item in scene(self._spoken_tracks(), editor.now.frame, editor.now.view.screen)]
            )
        return whole.scaledToWidth(width, Qt.TransformationMode.SmoothTransformation)

    @property
    def _offers_first(self) -> bool:
        return not self.editor.now.project.widgets and bool(self.editor.now.trace.columns)

    def _drawn_idents(self) -> set[str]:
        """Return the widgets of which anything is drawn."""
        return {item.ident for item in self._stage.placed if item.reach.width > 0 and item.reach.height > 0}

    def _paint_coming(self, painter: QPainter) -> None:
        """Paint the live preview of a dragged widget."""
        assert self._coming is not None
        widget, tracks = self._coming
        state = tracks.state(widget, self.editor.now.frame)
        item = drawn_widget(widget, state, 0.0, tracks.bound, self.editor.now.view.screen)
        draw_shapes(painter, [Group((item.group,), opacity=0.9)])

    def _paint_marks(self, painter: QPainter, touched: QRegion) -> None:
        """Paint outlines of hovered and selected widgets; anchor line, handles and position of the selected one."""
        if self.by_keys:
            ring(painter, self.seen_rect())
        self._marked = self._marks_reach()
        if self._hover and self._hover not in self.editor.now.selection.widgets and self._drag is None:
            self._outline(painter, self._hover, QColor(255, 255, 255, 150), 1.0)
        if self._target:
            self._outline(painter, self._target, theme().accent, 2.5)
        if self._lines:
            marks.lines(painter, self._lines)
        if self._sweep is not None:
            marks.sweep(painter, self._sweep)
        if self._zones is not None:
            self._zones.paint(painter, self.picture_rect())
            return
        if self._away_rect is not None:
            marks.note(painter, self._away, self._away_rect)
        elif self._still:
            marks.note(painter, self._still, marks.note_box(self._still, self.seen_rect()))
        if len(self.editor.now.selection.widgets) > 1:
            for ident in self.editor.now.chosen:
                marks.frame(painter, self.box_of(ident), ident in self._shown(), pulled=False)
            return
        if self.editor.now.widget is not None:
            self._paint_chosen(painter, touched, self.editor.now.widget)

    def _paint_chosen(self, painter: QPainter, touched: QRegion, chosen: BoundWidget) -> None:
        """Paint frame, anchor line and position of the selected widget."""
        rect = self.box_of(chosen.widget.id)
        safe = self.to_view(safe_area(self.editor.now.view.screen))
        if not touched.intersects(marks.reach(chosen.widget.place, rect, safe)):
            return
        shown = any(item.ident == chosen.widget.id for item in self.placed)
        if chosen.widget.place.follow is None:
            marks.anchor_line(painter, chosen.widget.place, rect, safe)
        elif shown and not chosen.widget.place.follow.hold:
            marks.follow_line(painter, chosen.widget.place, rect)
        found = self._extents.largest
        if found is not None and found.grows:
            marks.extent(painter, rect, found.most, rect.width() / chosen.widget.place.size[0])
        self.grips.paint(painter, self._pointer)
        marks.frame(painter, rect, shown, pulled=chosen.widget.id not in self.editor.now.locked)
        marks.tag(painter, self._place_text(chosen.widget, shown), rect, self.seen_rect())

    def _outline(self, painter: QPainter, ident: str, colour: QColor, width: float) -> None:
        for item in self.placed:
            if item.ident == ident:
                marks.outline(painter, self.to_view(item.rect), colour, width)

    def _place_text(self, widget: Widget, shown: bool) -> str:
        place, now = widget.place, self.editor.now
        if self._drag is not None and self._drag.corner is not None:
            return f"{place.size[0]:.0f} × {place.size[1]:.0f}"
        hangs = place.anchor if place.follow is None else "from the followed position"
        said = f"{place.offset[0]:.0f}, {place.offset[1]:.0f} {hangs}"
        if widget.id in now.hidden:
            said += "  ·  hidden while editing"
        elif not shown:
            said += "  ·  hidden now"
        return said + ("  ·  locked" if widget.id in now.locked else "")

    def box_of(self, ident: str) -> QRectF:
        """Return a widget's box in this view, drawn or not; for one that follows something, its current box."""
        project = self.editor.now.project
        widget = project.widget(ident)
        if widget.place.follow is not None:
            for item in self.placed:
                if item.ident == ident:
                    return self.to_view(item.rect)
        return self.to_view(widget_rect(project, widget, self.editor.now.view.screen))

    def _shown(self) -> set[str]:
        return {item.ident for item in self.placed}

    @property
    def tag_rect(self) -> QRectF | None:
        """Return the rectangle of the selected widget's position tag; None without a single selection."""
        chosen = self.editor.now.chosen
        if len(chosen) != 1:
            return None
        said = self._place_text(self.editor.now.project.widget(chosen[0]), chosen[0] in self._shown())
        return marks.tag_box(said, self.box_of(chosen[0]), self.seen_rect())

    @property
    def _still(self) -> str:
        """Return why the film behind the HUD does not run, or ""."""
        editor, plate = self.editor, self.editor.now.plate
        if plate is None or not plate.film:
            return ""
        return self._video.stands_still(plate, editor.now.trace, editor.now.frame)

    @property
    def _away(self) -> str:
        """Return the note about hidden widgets, or ""."""
        count = len(self.editor.now.hidden)
        return f"{count} hidden while editing  ·  show" if count else ""

    @property
    def _away_rect(self) -> QRectF | None:
        """Return its clickable rectangle."""
        return marks.note_box(self._away, self.seen_rect()) if self._away else None

    # -- drop preview -----------------------------------------------------------------------------------------------

    def show_coming(self, coming: tuple[BoundWidget, Tracks] | None, target: str = "") -> None:
        """Preview a dragged widget with its states, or mark the widget a drag would bind to."""
        self._coming, self._target = coming, target
        self.update()
