"""The list of findings: grouped by widget or by kind, worst first, hushed ones last."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from avrin.app.controls.theme import font, theme
from avrin.audit import SEVERITIES, Finding, Severity
from avrin.model import Project

__all__ = ["FindingRows", "draw_severity", "sentence"]

TALL, GROUP_TALL = 46, 34
LEFT = 20


@dataclass(frozen=True, slots=True)
class _Row:
    """A line of the list: a group's heading, or a finding. reason: why it is hushed, "" where it is not."""

    y: int
    title: str = ""
    finding: Finding | None = None
    reason: str = ""

    @property
    def tall(self) -> int:
        """Its height in pixels."""
        return TALL if self.finding is not None else GROUP_TALL


def _colour(severity: Severity) -> QColor:
    """The colour a severity is told in; its shape tells it too."""
    t = theme()
    return {"error": t.critical, "warning": t.low, "hint": t.third}[severity]


def draw_severity(painter: QPainter, severity: Severity, x: float, y: float) -> None:
    """A mark of 9 pixels around a point: a disc for an error, a triangle for a warning, a ring for a hint."""
    colour = _colour(severity)
    painter.setPen(QPen(colour, 1.6) if severity == "hint" else Qt.PenStyle.NoPen)
    painter.setBrush(Qt.BrushStyle.NoBrush if severity == "hint" else colour)
    if severity == "warning":
        painter.drawPolygon(QPolygonF([QPointF(x, y - 5), QPointF(x + 5.2, y + 4), QPointF(x - 5.2, y + 4)]))
    else:
        radius = 4.5 if severity == "error" else 3.6
        painter.drawEllipse(QPointF(x, y), radius, radius)


def sentence(text: str) -> str:
    """What a finding says, as people write it: without marks around names, with a stop."""
    bare = text.replace("`", "")
    return bare if bare.endswith(("?", ".", "!")) else f"{bare}."


class FindingRows(QWidget):
    """Painted rows. One finding is chosen; arrows walk, a press chooses."""

    chosen_changed = Signal()
    entered = Signal()  # Enter: go there

    def __init__(self) -> None:
        super().__init__()
        self.chosen: Finding | None = None
        self._rows: list[_Row] = []
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("findings")

    def show_found(self, project: Project, found: list[Finding], quiet: dict[Finding, str], by_kind: bool) -> None:
        """Fill the list. The chosen finding stays chosen as long as it is there."""
        self._rows = []
        for title, members in _groups(project, found, by_kind):
            self._add(_Row(self._end(), title))
            for finding in members:
                self._add(_Row(self._end(), finding=finding))
        if quiet:
            self._add(_Row(self._end(), "Hushed"))
            for finding, reason in quiet.items():
                self._add(_Row(self._end(), finding=finding, reason=reason or "no reason given"))
        every = self.findings()
        same = [finding for finding in every if self.chosen is not None and finding.key == self.chosen.key]
        was = self.chosen
        exact = [finding for finding in same if was is not None and finding.start == was.start]
        self.chosen = next(iter([*exact, *same, *every]), None)
        self.setFixedHeight(max(10, self._end() + 12))
        self.update()
        self.chosen_changed.emit()

    def _add(self, row: _Row) -> None:
        self._rows.append(row)

    def _end(self) -> int:
        return self._rows[-1].y + self._rows[-1].tall if self._rows else 0

    def findings(self) -> list[Finding]:
        """All of them in the order shown."""
        return [row.finding for row in self._rows if row.finding is not None]

    def choose(self, finding: Finding) -> None:
        """Choose one of the list."""
        if finding is not self.chosen:
            self.chosen = finding
            self.update()
            self.chosen_changed.emit()

    def walk(self, by: int) -> None:
        """Choose the next (previous) one; it stays at the ends."""
        every = self.findings()
        if not every:
            return
        at = next((i for i, finding in enumerate(every) if finding is self.chosen), -1)
        self.choose(every[min(max(0, at + by), len(every) - 1)])

    def chosen_rect(self) -> QRectF:
        """Where the chosen one stands."""
        row = next((row for row in self._rows if row.finding is not None and row.finding is self.chosen), None)
        return QRectF(0, row.y, self.width(), row.tall) if row is not None else QRectF()

    def sizeHint(self) -> QSize:
        return QSize(400, self._end())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for row in self._rows:
            if row.y + row.tall < event.rect().top() or row.y > event.rect().bottom():
                continue
            if row.finding is None:
                self._paint_group(painter, row)
            else:
                self._paint_finding(painter, row, row.finding)

    def _paint_group(self, painter: QPainter, row: _Row) -> None:
        painter.setFont(font("text", True))
        painter.setPen(theme().ink)
        painter.drawText(QRectF(LEFT, row.y + 10, self.width() - LEFT, 20), Qt.AlignmentFlag.AlignVCenter, row.title)

    def _paint_finding(self, painter: QPainter, row: _Row, finding: Finding) -> None:
        t = theme()
        box = QRectF(8, row.y, self.width() - 16, row.tall)
        if finding is self.chosen:
            painter.setPen(QPen(t.accent, 2) if self.hasFocus() else Qt.PenStyle.NoPen)
            painter.setBrush(t.soft)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 5, 5)
        if row.reason:
            painter.setOpacity(0.6)
        draw_severity(painter, finding.severity, LEFT + 6, row.y + 15)
        painter.setFont(font())
        painter.setPen(t.ink)
        wide = round(box.right() - LEFT - 32)
        elide = Qt.TextElideMode.ElideRight
        at = QRectF(LEFT + 22, row.y + 5, wide, 20)
        painter.drawText(
            at,
            Qt.AlignmentFlag.AlignVCenter,
            painter.fontMetrics().elidedText(finding.short.replace("`", ""), elide, wide),
        )
        painter.setFont(font("small"))
        painter.setPen(t.second)
        metrics = painter.fontMetrics()
        below = row.reason or sentence(finding.why)
        painter.drawText(at.translated(0, 18), Qt.AlignmentFlag.AlignVCenter, metrics.elidedText(below, elide, wide))
        painter.setOpacity(1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for row in self._rows:
            if row.finding is not None and row.y <= event.position().y() < row.y + row.tall:
                self.choose(row.finding)

    def mouseDoubleClickEvent(self, _event: QMouseEvent) -> None:
        self.entered.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self.walk(1 if event.key() == Qt.Key.Key_Down else -1)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.entered.emit()
        else:
            super().keyPressEvent(event)


def _groups(project: Project, found: Iterable[Finding], by_kind: bool) -> list[tuple[str, list[Finding]]]:
    """Findings under headings, the group with the worst first."""
    titles = {widget.id: widget.title for widget in project.widgets}
    groups: dict[str, list[Finding]] = {}
    for finding in found:
        title = finding.code.replace("-", " ").capitalize() if by_kind else titles.get(finding.widget, "The project")
        groups.setdefault(title, []).append(finding)
    order = {title: min(SEVERITIES.index(f.severity) for f in members) for title, members in groups.items()}
    return sorted(groups.items(), key=lambda group: order[group[0]])
