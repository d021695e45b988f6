"""A finding's moment: the HUD at that time, on its screen and plate, and the lane around it."""

from __future__ import annotations

import itertools

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from avrin.app.controls.assistive import Assisted, Role
from avrin.app.controls.theme import font, theme
from avrin.app.painting import marks
from avrin.app.painting.curve import Span, curve_image, ranges
from avrin.app.painting.film import draw_film
from avrin.app.painting.paint import draw
from avrin.app.painting.stretches import band_colour
from avrin.app.services.editor import Editor
from avrin.app.services.video_decoder import VideoDecoder
from avrin.binding.tracks import Tracks, changes
from avrin.editor.changes import Change
from avrin.errors import AvrinError
from avrin.findings.finding import Finding
from avrin.i18n.own_language import OWN
from avrin.kinds.states import BROKEN, HIDDEN
from avrin.project.project import Plate, Screen, ScreenPart
from avrin.render.layout import Rect
from avrin.render.pictures import ground_shapes
from avrin.render.scene import scene, widget_rect
from avrin.render.values import clock, format_value
from avrin.render.zones import zone_rect
from avrin.screens.spoken import Spoken
from avrin.trace.pyramid import Pyramid

__all__ = ["LanePart", "MomentPicture"]

AROUND = 8.0  # seconds of the lane before and after
LANE_TALL = 74


class MomentPicture(Assisted, QWidget):
    """The HUD at a frame, scaled to fit, with the finding's widgets framed."""

    assisted_role = Role.Graphic

    def __init__(self, editor: Editor, video: VideoDecoder) -> None:
        super().__init__()
        self.editor = editor
        self._video = video
        self._finding: Finding | None = None
        self._tracks: Tracks | None = None
        self._spoken: Spoken | None = None
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.setMinimumSize(240, 135)
        self.setAccessibleName("picture of the moment")
        editor.follow("moment", self)

    def on_change(self, _change: Change) -> None:
        """Show another picture of the film."""
        self.update()

    def show_finding(self, finding: Finding | None, tracks: Tracks | None) -> None:
        """Show a finding. tracks: of its recording."""
        self._finding, self._tracks = finding, tracks
        self.setAccessibleDescription(finding.why if finding is not None else "")
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(760, self.heightForWidth(760))

    def heightForWidth(self, width: int) -> int:
        """Return the height of the screen's picture at a width, within limits."""
        size = self._screen().size if self._finding is not None else (16, 9)
        return min(round(width * size[1] / size[0]), 520)

    def _screen(self) -> Screen:
        assert self._finding is not None
        named = {screen.name: screen for screen in self.editor.now.project.whole_screens}
        return named.get(self._finding.screen, self.editor.now.view.screen)

    def _as_seen(self, tracks: Tracks, slot: int) -> Tracks:
        """Return the tracks as the player of a part of a split screen sees them."""
        if self._spoken is None or not self._spoken.holds(tracks):
            self._spoken = Spoken(tracks)
        return self._spoken.tracks_or_own(OWN, slot)

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._finding is None or self._tracks is None:
            return
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        screen, tracks = self._screen(), self._tracks
        if isinstance(screen, ScreenPart):
            tracks = self._as_seen(tracks, screen.slot)
        scale = min(self.width() / screen.size[0], self.height() / screen.size[1])
        wide, high = screen.size[0] * scale, screen.size[1] * scale
        painter.setClipRect(QRectF(0, 0, wide, high))
        frame = moment_of(self._finding, tracks)
        plates = {plate.name: plate for plate in self.editor.now.project.plates}
        plate = plates.get(self._finding.plate, self.editor.now.plate)
        painter.save()
        painter.scale(scale, scale)
        film = self._video.picture(plate, tracks.trace, frame) if plate is not None and plate.film else None
        try:
            still = None if plate is None or plate.film else plate
            ground = ground_shapes(tracks.bound.project, screen, still, tracks.bound.folder)
        except AvrinError:
            ground = ground_shapes(tracks.bound.project, screen, None, tracks.bound.folder)
        draw(painter, ground)
        if plate is not None and film is not None:
            draw_film(painter, film, screen, tracks.bound.project, plate, tracks.bound.folder)
        draw(painter, [placed.group for placed in scene(tracks, frame, screen)])
        if plate is not None and self._finding.code == "keep-clear":
            self._paint_zones(painter, plate, tracks, frame, screen)
        painter.restore()
        self._paint_mark(painter, tracks, frame, screen, scale)

    @staticmethod
    def _paint_zones(painter: QPainter, plate: Plate, tracks: Tracks, frame: int, screen: Screen) -> None:
        painter.setPen(QPen(QColor("#ff6b78"), 3, Qt.PenStyle.DashLine))
        painter.setBrush(QColor(255, 107, 120, 40))
        for number in range(len(tracks.bound.zones.get(plate.name, ()))):
            painter.drawRect(QRectF(*zone_rect(tracks, plate, number, screen, frame)))

    def _paint_mark(self, painter: QPainter, tracks: Tracks, frame: int, screen: Screen, scale: float) -> None:
        """Frame the finding's widgets where they are drawn, or would be."""
        assert self._finding is not None
        ids = {self._finding.widget, self._finding.about} & set(tracks.bound.widgets)
        placed = {item.ident: item for item in scene(tracks, frame, screen)}
        for ident in sorted(ids):
            item = placed.get(ident)
            rect = (
                item.rect
                if item is not None
                else widget_rect(tracks.bound.project, tracks.bound.widgets[ident].widget, screen)
            )
            reach = item.reach if item is not None and item.reach.width > 0 else rect
            left, top = min(rect.x, reach.x), min(rect.y, reach.y)
            right = max(rect.x + rect.width, reach.x + reach.width)
            bottom = max(rect.y + rect.height, reach.y + reach.height)
            whole = Rect(left, top, right - left, bottom - top)
            box = QRectF(whole.x * scale, whole.y * scale, whole.width * scale, whole.height * scale)
            main = ident == self._finding.widget
            marks.outline(painter, box, QColor("#ff6b78") if main else QColor(255, 255, 255, 170), 2.5 if main else 1.2)


def moment_of(finding: Finding, tracks: Tracks) -> int:
    """Return the frame to show: its own, or one at which its widget has been visible for a while."""
    if finding.start is not None:
        return min(finding.start, max(0, len(tracks.trace) - 1))
    widget = tracks.bound.widgets.get(finding.widget)
    if widget is None:
        return 0
    seen = np.flatnonzero(tracks.column(widget.columns["visible"]).data > 0)
    return int(seen[len(seen) // 3]) if len(seen) else 0


class LanePart(Assisted, QWidget):
    """Some seconds of a finding's lane: bands, curve, and the affected stretch."""

    assisted_role = Role.Graphic

    def __init__(self, editor: Editor) -> None:
        super().__init__()
        self.editor = editor
        self._finding: Finding | None = None
        self._tracks: Tracks | None = None
        self._spoken: Spoken | None = None
        self.setFixedHeight(LANE_TALL)
        self.setAccessibleName("lane around the moment")

    def show_finding(self, finding: Finding | None, tracks: Tracks | None) -> None:
        """Show a finding; nothing for one without a moment."""
        self._finding, self._tracks = finding, tracks
        self.setVisible(finding is not None and tracks is not None and len(tracks.trace) > 1)
        self.update()

    def _as_seen(self, tracks: Tracks, slot: int) -> Tracks:
        """Return the tracks as the player of a part of a split screen sees them."""
        if self._spoken is None or not self._spoken.holds(tracks):
            self._spoken = Spoken(tracks)
        return self._spoken.tracks_or_own(OWN, slot)

    def paintEvent(self, _event: QPaintEvent) -> None:
        finding, tracks = self._finding, self._tracks
        if finding is None or tracks is None or not len(tracks.trace):
            return
        at = moment_of(finding, tracks)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        axis = tracks.trace.axis
        around = next((stretch for stretch in finding.stretches if stretch[0] <= at < stretch[1]), (at, at + 1))
        moment, start, end = (float(axis[min(frame, len(axis) - 1)]) for frame in (at, *around))
        # A whole stretch, or the part of a long one around the moment.
        shown = (start, end) if end - start <= 3 * AROUND else (max(start, moment - AROUND), min(end, moment + AROUND))
        first = max(0.0, shown[0] - AROUND)
        per_pixel = (shown[1] + AROUND - first) / max(1, self.width())
        area = QRectF(0, 4, self.width(), LANE_TALL - 24)
        span = Span.of(axis, first, per_pixel, self.width())
        if finding.widget in tracks.bound.widgets:
            self._paint_bands(painter, tracks, finding.widget, first, per_pixel, area)
        self._paint_curve(painter, tracks, finding, at, span, area)
        left = max(-4.0, (start - first) / per_pixel)
        right = min(self.width() + 4.0, max((end - first) / per_pixel, left + 2))
        painter.setPen(QPen(theme().critical if finding.start is not None else theme().accent, 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(QRectF(left - 1, area.top() - 3, right - left + 2, area.height() + 6), 3, 3)
        if at > around[0]:
            painter.drawLine(
                QLineF((moment - first) / per_pixel, area.top(), (moment - first) / per_pixel, area.bottom())
            )
        painter.setFont(font("small"))
        painter.setPen(theme().second)
        for second in dict.fromkeys((moment, first, first + per_pixel * self.width())):
            x = (second - first) / per_pixel
            box = QRectF(min(max(0.0, x - 40), self.width() - 80), area.bottom() + 4, 80, 14)
            flag = Qt.AlignmentFlag
            side = flag.AlignLeft if x < 40 else flag.AlignRight if x > self.width() - 40 else flag.AlignHCenter
            if second == moment or abs(x - (moment - first) / per_pixel) > 90:
                painter.drawText(box, side, clock(second, hundredths=second == moment))

    def _paint_bands(
        self, painter: QPainter, tracks: Tracks, ident: str, first: float, per_pixel: float, area: QRectF
    ) -> None:
        widget = tracks.bound.widgets[ident]
        state = tracks.column(widget.state)
        is_broken = tracks.bound.fault(ident) is not None
        axis = tracks.trace.axis
        low, high = np.searchsorted(axis, [first, first + per_pixel * area.width()]).tolist()
        key = state.data[low:high]
        edges = [0, *changes(key).tolist(), len(key)]
        painter.setPen(Qt.PenStyle.NoPen)
        for begin, stop in itertools.pairwise(edges):
            if stop > begin and state[low + begin] != HIDDEN:
                left = (float(axis[low + begin]) - first) / per_pixel
                right = (float(axis[min(low + stop, len(axis) - 1)]) - first) / per_pixel
                colour = QColor(band_colour(widget, BROKEN if is_broken else str(state[low + begin] or "")))
                colour.setAlpha(90)
                painter.setBrush(colour)
                painter.drawRect(QRectF(left, area.top(), max(1.0, right - left), area.height()))

    def _paint_curve(
        self, painter: QPainter, tracks: Tracks, finding: Finding, at: int, span: Span, area: QRectF
    ) -> None:
        """Paint its driver, scaled to its range in this part."""
        name = finding.variable or self._driver(tracks, finding.widget)
        column = tracks.trace.find(name) if name else None
        if column is None or column.kind != "number":
            return
        pyramid = Pyramid(column.data)
        low, high = ranges(pyramid, span)
        ends = pyramid.extremes()
        if not ends[1] > ends[0]:
            return
        image = curve_image(low, high, ends, round(area.height()), theme().ink)
        painter.drawImage(area.topLeft(), image)
        painter.setFont(font("small"))
        painter.setPen(theme().ink)
        painter.drawText(QPointF(4, area.top() + 12), f"{name}  {format_value(column[at])}")

    @staticmethod
    def _driver(tracks: Tracks, ident: str) -> str:
        """Return the first number a widget uses."""
        widget = tracks.bound.widgets.get(ident)
        names = [name for step in widget.inputs.values() for name in step.sources()] if widget is not None else []
        found = ((name, tracks.trace.find(name)) for name in names)
        return next((name for name, column in found if column is not None and column.kind == "number"), "")
