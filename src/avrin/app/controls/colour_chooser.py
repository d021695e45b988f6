"""Choose a colour: one the project uses, one from the picture, by hue and shade, or by value, with live preview."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QLinearGradient, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from avrin.app.controls.assistive import Assisted, Role
from avrin.app.controls.field import Field
from avrin.app.controls.keys import ARROWS, KeepsKeys
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.popup import Popup, row
from avrin.app.controls.swatch import Swatch, colour_in
from avrin.app.controls.theme import font, theme
from avrin.render.colour import contrast_ratio

__all__ = ["ColourChooser", "written_colour"]

WIDE, HIGH, BAR = 228, 118, 14
ACROSS, MOST = 9, 27  # the project's colours per row, and in total
STEP = 0.02
BESIDE = 12  # pixels from the pressed control
PLAIN, LARGE = 4.5, 3.0  # WCAG 2.2: for texts of any size, and for large ones


def written_colour(colour: QColor) -> str:
    """Return a colour as the project writes it."""
    text = colour.name()
    return text if colour.alpha() == 255 else f"{text}{colour.alpha():02x}"


class _Area(KeepsKeys, Assisted, QWidget):
    """A point in a field, moved by mouse or arrow keys: each coordinate from 0 to 1."""

    moved = Signal(bool)  # whether the mouse was released
    kept_keys = ARROWS
    assisted_role = Role.Slider

    def __init__(self, name: str, high: int) -> None:
        super().__init__()
        self.across, self.down = 0.0, 0.0
        self.hue = 0.0
        self.setAccessibleName(name)
        self.setFixedSize(WIDE, high)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.CrossCursor)

    def assisted_value(self) -> str:
        """Return the point's position."""
        return f"{self.across:.0%}, {self.down:.0%}" if self.height() > BAR else f"{self.across:.0%}"

    def put(self, x: float, y: float = 0.0) -> None:
        """Move the point."""
        self.across, self.down = min(max(x, 0.0), 1.0), min(max(y, 0.0), 1.0)
        self.update()

    def _to(self, at: QPointF, *, done: bool) -> None:
        self.put(at.x() / self.width(), at.y() / self.height())
        self.moved.emit(done)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._to(event.position(), done=False)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._to(event.position(), done=False)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._to(event.position(), done=True)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {
            Qt.Key.Key_Left: (-STEP, 0), Qt.Key.Key_Right: (STEP, 0), Qt.Key.Key_Up: (0, -STEP), Qt.Key.Key_Down: (0, STEP),
        }.get(Qt.Key(event.key()))  # fmt: skip
        if step is None:
            super().keyPressEvent(event)
            return
        self.put(self.across + step[0], self.down + step[1])
        self.moved.emit(True)

    def paintEvent(self, _event: QPaintEvent) -> None:
        t, painter, area = theme(), QPainter(self), QRectF(self.rect()).adjusted(1, 1, -1, -1)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        self.fill(painter, area)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(t.accent, 2) if self.hasFocus() else QPen(t.line, 1))
        painter.drawRoundedRect(area, 3, 3)
        bar = self.height() <= BAR
        c = QPointF(
            area.x() + self.across * area.width(), area.center().y() if bar else area.y() + self.down * area.height()
        )
        radius = BAR / 2 - 2 if bar else 5
        for colour, wide in (("#000000", 3.0), ("#ffffff", 1.6)):
            painter.setPen(QPen(QColor(colour), wide))
            painter.drawEllipse(c, radius, radius)

    def fill(self, painter: QPainter, area: QRectF) -> None:
        """Paint the field's content."""
        raise NotImplementedError


class _Shade(_Area):
    """Horizontally from grey to the full hue, vertically from bright to black."""

    def fill(self, painter: QPainter, area: QRectF) -> None:
        across = QLinearGradient(area.topLeft(), area.topRight())
        across.setColorAt(0, QColor("#ffffff"))
        across.setColorAt(1, QColor.fromHsvF(self.hue, 1, 1))
        painter.setBrush(across)
        painter.drawRoundedRect(area, 3, 3)
        down = QLinearGradient(area.topLeft(), area.bottomLeft())
        down.setColorAt(0, QColor(0, 0, 0, 0))
        down.setColorAt(1, QColor(0, 0, 0))
        painter.setBrush(down)
        painter.drawRoundedRect(area, 3, 3)


class _Hue(_Area):
    def fill(self, painter: QPainter, area: QRectF) -> None:
        across = QLinearGradient(area.topLeft(), area.topRight())
        for part in range(7):
            across.setColorAt(part / 6, QColor.fromHsvF(min(part / 6, 0.999), 0.85, 0.95))
        painter.setBrush(across)
        painter.drawRoundedRect(area, 3, 3)


class _Clear(_Area):
    """From transparent to opaque."""

    shown = QColor("#000000")

    def fill(self, painter: QPainter, area: QRectF) -> None:
        painter.setBrush(theme().raised)
        painter.drawRoundedRect(area, 3, 3)
        half = area.height() / 2
        for column in range(int(area.width() / half) + 1):
            if column % 2:
                painter.fillRect(QRectF(area.x() + column * half, area.y(), half, half), theme().missing_line)
            else:
                painter.fillRect(QRectF(area.x() + column * half, area.y() + half, half, half), theme().missing_line)
        across = QLinearGradient(area.topLeft(), area.topRight())
        clear, solid = QColor(self.shown), QColor(self.shown)
        clear.setAlpha(0)
        solid.setAlpha(255)
        across.setColorAt(0, clear)
        across.setColorAt(1, solid)
        painter.setBrush(across)
        painter.drawRoundedRect(area, 3, 3)


class _Sample(QWidget):
    """Sample text in the colour over the widget's background, with its contrast."""

    def __init__(self) -> None:
        super().__init__()
        self.colour, self.behind = QColor("#ffffff"), QColor("#142027")
        self.setFixedSize(WIDE, 34)

    @property
    def ratio(self) -> float:
        """Return the contrast ratio of the two."""
        front, back = (np.array([c.redF(), c.greenF(), c.blueF()]) for c in (self.colour, self.behind))
        mixed = front * self.colour.alphaF() + back * (1 - self.colour.alphaF())
        return float(contrast_ratio(mixed, back))

    def contrast_text(self) -> str:
        """Return the contrast in words."""
        ratio = self.ratio
        word = "easy to read" if ratio >= PLAIN else "fine for large text" if ratio >= LARGE else "hard to read"
        return f"{ratio:.1f} to the plate, {word}"

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter, area = QPainter(self), QRectF(self.rect()).adjusted(1, 1, -1, -1)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.behind)
        painter.drawRoundedRect(area, 4, 4)
        painter.setBrush(self.colour)
        painter.drawRoundedRect(QRectF(area.x() + 8, area.y() + 9, 34, area.height() - 18), 2, 2)
        painter.setPen(self.colour)
        painter.setFont(font("large", True))
        painter.drawText(area.adjusted(52, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, "Aa 09")
        light = self.behind.lightnessF() < 0.5
        painter.setPen(QColor("#f4f1ea" if light else "#24211d"))
        painter.setFont(font("small"))
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.drawText(area.adjusted(0, 0, -8, 0), flags, f"{self.ratio:.1f}")


class ColourChooser(Popup):
    """chosen: a colour as the project writes it, "" for none, and whether the mouse was released."""

    chosen = Signal(str, bool)
    dropper_wanted = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.colour = ""
        self._shade, self._hue, self._clear = _Shade("shade", HIGH), _Hue("hue", BAR), _Clear("opacity", BAR)
        self._sample = _Sample()
        self._told = text_label("", size="small")
        self.value = Field("value", 92)
        self.value.setPlaceholderText("#rrggbb")
        self.value.taken.connect(self._typed)
        self.value.exited.connect(self.setFocus)
        for area in (self._shade, self._hue, self._clear):
            area.moved.connect(self._moved)
        self.dropper = Link("from the picture", self.dropper_wanted.emit, bold=True)
        self.none = Link("none", lambda: self._take("", done=True), bold=True)
        self._worn = QGridLayout()
        self._worn.setSpacing(2)
        self.swatches: list[Swatch] = []
        whole = QVBoxLayout(self)
        whole.setContentsMargins(14, 12, 14, 10)
        whole.setSpacing(7)
        self._worn_said = text_label("used in this project", size="small")
        whole.addWidget(self._worn_said)
        whole.addLayout(self._worn)
        for part in (self._shade, self._hue, self._clear, self._sample, self._told):
            whole.addWidget(part)
        links = QHBoxLayout()
        links.setSpacing(0)
        for link in (self.dropper, self.none):
            links.addWidget(link)
        links.addStretch(1)
        links.addWidget(Link("done", self.close_it, bold=True))
        whole.addLayout(row("value", self.value, None))
        whole.addLayout(links)

    def open_for(self, at: QWidget, colour: str, worn: Sequence[str], behind: QColor, name: str = "") -> None:
        """Open next to the pressed control. worn: the project's colours. behind: the widget's background."""
        self.setAccessibleName(name)
        self._show_worn(worn[:MOST])
        self._sample.behind = behind
        self.show_colour(colour)
        self.adjustSize()
        parent = self.parentWidget()
        assert parent is not None
        pressed = at.mapTo(parent, at.rect().topLeft())
        x = pressed.x() - self.width() - BESIDE  # beside it, so that the widget with the colour stays visible
        if x < 8:
            x = min(pressed.x() + at.width() + BESIDE, parent.width() - self.width() - 8)
        self.move(x, max(8, min(pressed.y() - self.height() // 2, parent.height() - self.height() - 8)))
        self.show()
        self.raise_()
        self._shade.setFocus()

    def _show_worn(self, worn: Sequence[str]) -> None:
        for swatch in self.swatches:
            self._worn.removeWidget(swatch)
            swatch.deleteLater()
        self.swatches = []
        self._worn_said.setVisible(bool(worn))
        for number, colour in enumerate(worn):
            swatch = Swatch("worn", _taking(self._take, colour), 20)
            swatch.show_colour(colour)
            self.swatches.append(swatch)
            self._worn.addWidget(swatch, number // ACROSS, number % ACROSS, Qt.AlignmentFlag.AlignLeft)

    def show_colour(self, colour: str) -> None:
        """Show the current colour."""
        self.colour = colour
        shown = colour_in(colour) if colour else QColor("#ffffff")
        hue = shown.hsvHueF()
        if hue >= 0:  # grey has no hue: the bar keeps its position
            self._hue.put(hue)
        self._shade.hue = self._hue.across if self._hue.across < 1 else 0.0
        self._shade.put(shown.hsvSaturationF(), 1 - shown.valueF())
        self._clear.shown = shown
        self._clear.put(shown.alphaF())
        self._say(shown)
        self.value.show_text(colour)

    def _say(self, shown: QColor) -> None:
        self._sample.colour = shown
        self._sample.update()
        self._told.setText(self._sample.contrast_text())

    def _moved(self, done: bool) -> None:
        hue = min(self._hue.across, 0.9999)
        self._shade.hue = hue
        self._shade.update()
        shown = QColor.fromHsvF(hue, self._shade.across, 1 - self._shade.down, self._clear.across)
        self._clear.shown = shown
        self._clear.update()
        self._say(shown)
        self.colour = written_colour(shown)
        self.value.show_text(self.colour)
        self.chosen.emit(self.colour, done)

    def _typed(self, text: str) -> None:
        plain = text.strip().lower()
        plain = plain if plain.startswith("#") or not plain else f"#{plain}"
        if plain and (len(plain) not in (7, 9) or not QColor(plain[:7]).isValid() or not _is_hex(plain[1:])):
            self.value.mark(True)
            return
        self._take(plain, done=True)

    def _take(self, colour: str, *, done: bool) -> None:
        self.show_colour(colour)
        self.chosen.emit(colour, done)


def _taking(take: Callable[..., None], colour: str) -> Callable[[], None]:
    return lambda: take(colour, done=True)


def _is_hex(text: str) -> bool:
    return all(letter in "0123456789abcdef" for letter in text)
