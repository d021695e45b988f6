"""The cells of the sheet: each paints the HUD at the playhead with its findings, and can be clicked."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import QPointF, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from avrin.app.controls.assistive import Assisted, Part, Role
from avrin.app.controls.focus import Stepped, ring
from avrin.app.controls.theme import font, measure, theme
from avrin.app.painting import marks
from avrin.app.painting.colour_vision import as_seen_with
from avrin.app.painting.film import draw_film
from avrin.app.painting.offscreen import painting
from avrin.app.painting.paint import draw
from avrin.app.services.checking import Checking
from avrin.app.services.comparison import Comparison
from avrin.app.services.editor import Editor
from avrin.app.services.video_decoder import VideoDecoder
from avrin.editor.changes import Change
from avrin.errors import AvrinError
from avrin.findings.finding import Finding
from avrin.findings.registry import CHECKS
from avrin.findings.views import View
from avrin.kinds.shapes import Shape
from avrin.project.project import Plate, ScreenPart
from avrin.render.layout import part_at
from avrin.render.pictures import UNDER, ground_shapes, hud_shapes
from avrin.render.scene import scene
from avrin.screens.axes import FULL, Cell, Grid, judged_as
from avrin.screens.distance import DISTANCE, distance_shapes
from avrin.screens.sheet import FIGURES, CellSheet, cells_laid_out
from avrin.screens.spoken import Spoken

__all__ = ["Cells"]

BELOW = 18.0  # pixels below each cell for its findings
AFTER = 60  # milliseconds between updates while scrubbing

VIEWED = frozenset(check.code for check in CHECKS if check.of_views)  # codes of the checks that judge cells


class Cells(Assisted, Stepped, QWidget):
    """Repainted during playback and scrubbing. pressed: a cell was clicked. spoken_to: a widget in one was right-clicked.

    stamp: incremented when texts change.
    """

    pressed = Signal(object)  # a Cell
    spoken_to = Signal(object, str)  # a Cell, the widget's id

    def __init__(self, editor: Editor, checking: Checking, comparison: Comparison, video: VideoDecoder) -> None:
        super().__init__()
        self.editor = editor
        self._checking, self._comparison, self._video = checking, comparison, video
        self.grid: Grid | None = None
        self.findings: Sequence[Finding] = ()
        self._laid: CellSheet | None = None
        self._over: tuple[int, int] | None = None
        self._huds: dict[tuple[object, ...], QImage] = {}  # of the current frame
        self._huds_of: object = None
        self._grounds: dict[tuple[object, ...], QImage] = {}
        self.stamp = 0
        self._huds_at = 1.0
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("The HUD on every screen")
        self.told: Finding | None = None  # the finding navigated to
        self._spoken: Spoken | None = None
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.timeout.connect(self.update)
        self._compared: dict[tuple[str, object], tuple[int, bool]] = {}  # by screen and by what is compared
        editor.follow("screen cells", self)

    def on_change(self, change: Change) -> None:
        """Follow the playhead, the film and the comparison."""
        if change.of("comparison"):
            self._compare()
        if change.of("playhead", "figures", "film"):
            self._scrubbed()

    assisted_role = Role.List

    def show_grid(self, grid: Grid, findings: Sequence[Finding]) -> None:
        """Replace cells or findings."""
        self.grid, self.findings = grid, findings
        self._grounds.clear()
        self.update()

    def stand_on(self, finding: Finding) -> None:
        """Show a finding in the first cell that has it."""
        assert self.grid is not None
        self.told = finding
        cells = [cell for line in self.grid.cells for cell in line]
        those = [
            i for i, cell in enumerate(cells) if any(one.key[:2] == finding.key[:2] for one in self.found_in(cell))
        ]
        named = [i for i in those if finding.screen in ("", cells[i].screen.name)]
        self.at = next(iter(named or those), self.at)
        self.setFocus(Qt.FocusReason.OtherFocusReason)
        self.update()

    def spoken(self) -> Spoken:
        """Return the recording's tracks in all languages."""
        if self._spoken is None or not self._spoken.holds(self.editor.now.tracks):
            self._spoken = Spoken(self.editor.now.tracks)
        return self._spoken

    def _compare(self) -> None:
        self._compared.clear()
        self.update()

    def _scrubbed(self) -> None:
        if self.isVisible() and not self._later.isActive():
            self._later.start(0 if self.editor.now.playing else AFTER // 2)

    # -- layout -------------------------------------------------------------------------------------------------------

    def laid(self) -> CellSheet | None:
        """Return the layout for the current size."""
        if self.grid is None:
            return None
        return cells_laid_out(self.grid, self.width(), self.height(), BELOW)

    def rect_of(self, row: int, column: int) -> QRectF:
        """Return a cell's rectangle."""
        laid = self.laid()
        assert laid is not None
        return QRectF(*laid.boxes[row][column])

    def _at(self, point: QPointF) -> tuple[int, int] | None:
        laid = self.laid()
        for row, line in enumerate(laid.boxes if laid is not None else ()):
            for column, box in enumerate(line):
                if QRectF(*box).adjusted(0, 0, 0, BELOW).contains(point):
                    return row, column
        return None

    def found_in(self, cell: Cell) -> list[Finding]:
        """Return the findings of exactly a cell's screen, plate, language, size and colour vision."""
        plate = cell.plate.name if cell.plate is not None else ""
        screens = {"", cell.screen.name, *(part.name for part in cell.screen.parts)}
        views = [self._checking.of_view(view) for view in views_of(cell, self.editor.now.bound.slot)]
        looked = {
            name for view in views_of(cell, self.editor.now.bound.slot) for name in (view.screen.name, cell.screen.name)
        }
        rest = [
            one for one in self.findings
            if (one.screen or one.plate or one.language) and one.screen in screens
            and one.plate in ("", plate) and one.language in ("", cell.language)
        ]  # fmt: skip
        if any(found is None for found in views):
            return rest  # until it was judged
        exact = [one for found in views for one in found or ()]
        # Findings of other players' parts, and those of no single screen, such as a missing translation.
        return [*exact, *(one for one in rest if one.screen not in looked and one.code not in VIEWED)]

    # -- painting -----------------------------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent) -> None:
        t, grid, laid = theme(), self.grid, self.laid()
        painter = QPainter(self)
        painter.fillRect(self.rect(), t.desk)
        if grid is None or laid is None:
            return
        painter.setFont(font("text", True))
        painter.setPen(t.ink)
        for name, area in self._names(grid, laid):
            self._word(painter, name, area)
        now = (self.editor.now.tracks, self.editor.now.frame, self.stamp)
        if now != self._huds_of or self._huds_at != self.devicePixelRatioF():
            self._huds, self._huds_of, self._huds_at = {}, now, self.devicePixelRatioF()
        for row, line in enumerate(laid.boxes):
            for column, box in enumerate(line):
                cell = grid.cells[row][column]
                self._paint_cell(painter, cell, QRectF(*box).toAlignedRect())
                self._paint_findings(painter, cell, QRectF(*box))
                if self._differs(cell):
                    wide = measure("differs", "small") + 14
                    marks.note(painter, "differs", QRectF(box.x + box.width - wide - 6, box.y + 6, wide, 20))
                for one in self.found_in(cell) if self.told is not None else ():
                    if self.told is not None and (one.code, one.widget) == (self.told.code, self.told.widget):
                        self._frame_finding(painter, cell, QRectF(*box), one)
                if (row, column) == self._over:
                    painter.setPen(QPen(t.accent, 2))
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    painter.drawRect(QRectF(*box).adjusted(-1, -1, 1, 1))
        if self.stands_on is not None:
            row, column = divmod(self.stands_on, len(grid.columns))
            ring(painter, self.rect_of(row, column).adjusted(-3, -3, 3, 3))

    @staticmethod
    def _names(grid: Grid, laid: CellSheet) -> list[tuple[str, QRectF]]:
        """Yield the titles of columns, rows or cells, with their rectangles."""
        if laid.flows:
            names = grid.rows if len(grid.columns) == 1 else grid.columns
            boxes = [box for line in laid.boxes for box in line]
            return [(name, QRectF(box.x, box.y - 22, box.width, 18)) for name, box in zip(names, boxes, strict=True)]
        over = [
            (name, QRectF(box.x, laid.top - 24, box.width, 18))
            for name, box in zip(grid.columns, laid.boxes[0], strict=True)
        ]
        return over + [
            (name, QRectF(20, line[0].y, laid.left - 30, 18)) for name, line in zip(grid.rows, laid.boxes, strict=True)
        ]

    def _differs(self, cell: Cell) -> bool:
        """Return whether a cell's HUD differs from the earlier version's, ignoring plates and colour vision."""
        comparing, editor = self._comparison, self.editor
        if comparing.found is None or comparing.before is None:
            return False
        key = (cell.screen.name, comparing.found)
        if key not in self._compared or self._compared[key][0] != editor.now.frame:
            known = (one for one in comparing.before.project.whole_screens if one.name == cell.screen.name)
            before = scene(comparing.found.tracks, editor.now.frame, next(known, cell.screen))
            now = scene(editor.now.tracks, editor.now.frame, cell.screen)
            self._compared[key] = (editor.now.frame, before != now)
        return self._compared[key][1]

    def _paint_cell(self, painter: QPainter, cell: Cell, box: QRect) -> None:
        """Paint the HUD of a screen once, over each plate; then simulate colour vision on both."""
        ratio, zoom = self.devicePixelRatioF(), box.width() / cell.screen.size[0]
        image = self._ground(cell, box, zoom, ratio).copy()
        with painting(image) as apart:
            apart.drawImage(0, 0, self._hud(cell, box, zoom, ratio))
            if cell.eyes == DISTANCE:
                apart.scale(zoom, zoom)
                draw(apart, self._distances(cell, FIGURES / zoom))
        if cell.eyes not in (FULL, DISTANCE):
            image = as_seen_with(image, cell.eyes)
            image.setDevicePixelRatio(ratio)
        painter.drawImage(box.topLeft(), image)

    def _distances(self, cell: Cell, letters: float) -> list[Shape]:
        spoken = self.spoken()
        tracks = spoken.tracks_or_own(cell.language, cell.player, cell.option)
        seen_by = spoken.seen_by(cell.language, cell.option)
        return distance_shapes(tracks, self.editor.now.frame, cell.screen, letters, seen_by)

    def _ground(self, cell: Cell, box: QRect, zoom: float, ratio: float) -> QImage:
        """Return a cell's background; a plate is painted once, a film for each of its frames."""
        editor, plate = self.editor, cell.plate
        film = (
            self._video.picture(plate, editor.now.trace, editor.now.frame) if plate is not None and plate.film else None
        )
        shown = (plate.name, plate.picture, plate.proportions) if plate is not None else ()
        key = (cell.screen.name, shown, box.width(), box.height(), ratio)
        known = self._grounds.get(key) if film is None else None
        if known is not None:
            return known
        image = QImage(box.size() * ratio, QImage.Format.Format_RGB32)
        image.fill(QColor(UNDER))  # rounding leaves a line that no plate covers
        image.setDevicePixelRatio(ratio)
        with painting(image) as painter:
            painter.scale(zoom, zoom)
            if plate is not None and film is not None:
                draw_film(painter, film, cell.screen, editor.now.project, plate, editor.now.folder)
                return image
            try:
                draw(painter, ground_shapes(editor.now.project, cell.screen, _still(plate), editor.now.bound.folder))
            except AvrinError:  # reported by the checks
                draw(painter, ground_shapes(editor.now.project, cell.screen, None, editor.now.bound.folder))
        if plate is None or not plate.film:
            self._grounds[key] = image
        return image

    def _hud(self, cell: Cell, box: QRect, zoom: float, ratio: float) -> QImage:
        """Return the widgets on a screen at the size of its cells."""
        screen = cell.screen
        views = tuple((view.box, view.slot) for view in screen.views)
        whose = (cell.player, cell.option)
        key = (cell.language, whose, screen.size, screen.safe, screen.scale, views, box.width(), box.height())
        known = self._huds.get(key)
        if known is None:
            known = self._huds[key] = QImage(box.size() * ratio, QImage.Format.Format_ARGB32_Premultiplied)
            known.setDevicePixelRatio(ratio)
            known.fill(Qt.GlobalColor.transparent)
            with painting(known) as apart:
                apart.scale(zoom, zoom)
                spoken = self.spoken()
                tracks = spoken.tracks_or_own(cell.language, *whose)
                seen_by = spoken.seen_by(cell.language, cell.option)
                draw(apart, hud_shapes(tracks, self.editor.now.frame, screen, seen_by))
        return known

    def _frame_finding(self, painter: QPainter, cell: Cell, box: QRectF, finding: Finding) -> None:
        """Frame the widget of a finding, in each affected part of a split screen."""
        zoom, spoken = box.width() / cell.screen.size[0], self.spoken()
        own = {
            view.screen.name for view in views_of(cell, self.editor.now.bound.slot)
        }  # as the checks name it at this size
        for part in cell.screen.parts or (cell.screen,):
            x, y = part.corner if isinstance(part, ScreenPart) else (0, 0)
            slot = part.slot if isinstance(part, ScreenPart) else cell.player
            if finding.screen not in ("", part.name, *own):
                continue
            for placed in scene(spoken.tracks_or_own(cell.language, slot, cell.option), self.editor.now.frame, part):
                if placed.ident == finding.widget:
                    left, top, wide, high = placed.reach if placed.reach.width > 0 else placed.rect
                    there = QRectF((left + x) * zoom, (top + y) * zoom, wide * zoom, high * zoom).translated(
                        box.topLeft()
                    )
                    marks.outline(painter, there.intersected(box), QColor("#ff6b78"), 2.0)

    def _paint_findings(self, painter: QPainter, cell: Cell, box: QRectF) -> None:
        """Paint a cell's findings in words below it."""
        found = self.found_in(cell)
        if not found:
            return
        t = theme()
        more = f"   and {len(found) - 1} more" if len(found) > 1 else ""
        painter.setFont(font("small"))
        painter.setPen(t.critical if found[0].severity == "error" else t.ink)
        self._word(
            painter,
            f"{self._finding_text(found[0])}{found[0].short}{more}",
            QRectF(box.x(), box.bottom() + 3, box.width(), 14),
        )
        painter.setFont(font("text", True))
        painter.setPen(t.ink)

    def words_of(self, cell: Cell) -> list[str]:
        """Return a cell's findings, a line each."""
        return [f"{self._finding_text(one)}{one.short}" for one in self.found_in(cell)]

    def _finding_text(self, finding: Finding) -> str:
        """Return a finding with its widget's title in front."""
        named = {widget.id: widget.title for widget in self.editor.now.project.widgets}
        return f"{named[finding.widget]}: " if finding.widget in named else ""

    @staticmethod
    def _word(painter: QPainter, text: str, box: QRectF) -> None:
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, round(box.width()))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, shown)

    # -- input --------------------------------------------------------------------------------------------------------

    def parts(self) -> int:
        return len(self.grid.rows) * len(self.grid.columns) if self.grid is not None else 0

    def press_part(self, number: int) -> None:
        """Select a cell by index, row by row."""
        if self.grid is not None and 0 <= number < self.parts():
            row, column = divmod(number, len(self.grid.columns))
            self.pressed.emit(self.grid.cells[row][column])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.stands_on is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.press_part(self.stands_on)
        else:
            super().keyPressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        over = self._at(event.position())
        self.setCursor(Qt.CursorShape.PointingHandCursor if over is not None else Qt.CursorShape.ArrowCursor)
        if over != self._over:
            self._over = over
            self.update()

    def leaveEvent(self, _event: object) -> None:
        self._over = None
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = self._at(event.position())
        if at is None or self.grid is None:
            return
        if event.button() == Qt.MouseButton.LeftButton:
            self.press_part(at[0] * len(self.grid.columns) + at[1])
        elif event.button() == Qt.MouseButton.RightButton:
            self.spoken_to.emit(self.grid.cells[at[0]][at[1]], self._widget_at(at, event.position()))

    def _widget_at(self, at: tuple[int, int], point: QPointF) -> str:
        """Return the id of the visible widget at a point of a cell, or ""."""
        assert self.grid is not None
        cell, box = self.grid.cells[at[0]][at[1]], self.rect_of(*at)
        zoom = box.width() / cell.screen.size[0]
        x, y = (point.x() - box.x()) / zoom, (point.y() - box.y()) / zoom
        part = part_at(cell.screen, x, y)
        x, y = (x - part.corner[0], y - part.corner[1]) if isinstance(part, ScreenPart) else (x, y)
        slot = part.slot if isinstance(part, ScreenPart) else cell.player
        found = scene(self.spoken().tracks_or_own(cell.language, slot, cell.option), self.editor.now.frame, part)
        speaks = [one for one in found if one.reach.contains(x, y)]
        return min(speaks, key=lambda item: item.reach.width * item.reach.height).ident if speaks else ""

    def assisted_parts(self) -> list[Part]:
        """Return each cell by row and column, with its findings; a press goes to it."""
        if self.grid is None:
            return []
        count = len(self.grid.columns)
        return [
            Part(
                ", ".join(filter(None, (self.grid.rows[row], self.grid.columns[column]))), self.rect_of(row, column),
                value="; ".join(one.short for one in self.found_in(self.grid.cells[row][column])),
                press=partial(self.press_part, row * count + column),
            )
            for row in range(len(self.grid.rows)) for column in range(count)
        ]  # fmt: skip


def views_of(cell: Cell, slot: int | None) -> list[View]:
    """Return a cell as views for the checks."""
    return [View(*one) for one in judged_as(cell, slot)]


def _still(plate: Plate | None) -> Plate | None:
    """Return a plate that is a picture; None for a film."""
    return plate if plate is not None and not plate.film else None
