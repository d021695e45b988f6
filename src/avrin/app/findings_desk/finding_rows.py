"""The list of findings: grouped by widget or kind, most severe first, ignored ones last; consequences below their cause."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence

from msgspec import Struct
from PySide6.QtCore import (
    QAbstractListModel,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QPointF,
    QRectF,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QColor, QFontMetrics, QKeyEvent, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QAbstractItemView, QListView, QStyledItemDelegate, QStyleOptionViewItem

from avrin.app.controls.scroller import thin_bars
from avrin.app.controls.theme import font, theme
from avrin.findings.causes import with_rest
from avrin.findings.finding import SEVERITIES, Finding, Severity
from avrin.project.project import Project

__all__ = ["FindingRows", "draw_severity", "sentence"]

TALL, GROUP_TALL, REST_TALL = 46, 34, 26
LEFT = 20


Index = QModelIndex | QPersistentModelIndex
Key = tuple[str, str, str]
HERE = Qt.ItemDataRole.UserRole  # a row's record


class _Row(Struct, frozen=True):
    """A row of the list: a group's heading, or a finding. reason: why it is ignored, "" if it is not.

    follows: it is a consequence of the row above. title: of a consequence, its widget or recording.
    came: it is new compared with the earlier version.
    """

    title: str = ""
    finding: Finding | None = None
    reason: str = ""
    follows: bool = False
    came: bool = False

    @property
    def tall(self) -> int:
        """Its height in pixels."""
        return GROUP_TALL if self.finding is None else REST_TALL if self.follows else TALL


def _colour(severity: Severity) -> QColor:
    """Return the colour of a severity; its shape distinguishes it too."""
    t = theme()
    return {"error": t.critical, "warning": t.low, "hint": t.third}[severity]


def draw_severity(painter: QPainter, severity: Severity, x: float, y: float) -> None:
    """Draw a mark of 9 pixels around a point: a disc for an error, a triangle for a warning, a ring for a hint."""
    colour = _colour(severity)
    painter.setPen(QPen(colour, 1.6) if severity == "hint" else Qt.PenStyle.NoPen)
    painter.setBrush(Qt.BrushStyle.NoBrush if severity == "hint" else colour)
    if severity == "warning":
        painter.drawPolygon(QPolygonF([QPointF(x, y - 5), QPointF(x + 5.2, y + 4), QPointF(x - 5.2, y + 4)]))
    else:
        radius = 4.5 if severity == "error" else 3.6
        painter.drawEllipse(QPointF(x, y), radius, radius)


def sentence(text: str) -> str:
    """Return a finding's sentence without marks around names, with a full stop."""
    bare = text.replace("`", "")
    return bare if bare.endswith(("?", ".", "!")) else f"{bare}."


class _Rows(QAbstractListModel):
    """The rows as an item model, for Qt's views and assistive technology."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[_Row] = []

    def fill(self, rows: list[_Row]) -> None:
        """Replace the rows."""
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, _parent: Index | None = None) -> int:
        return len(self.rows)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row = self.rows[index.row()]
        if role == HERE:
            return row
        if role == Qt.ItemDataRole.DisplayRole:
            return row.title if row.finding is None else row.finding.short.replace("`", "")
        if role == Qt.ItemDataRole.AccessibleTextRole and row.finding is not None:
            ignored = f", ignored: {row.reason}" if row.reason else ""
            so = "caused by the one before, " if row.follows else ""
            new = "new, " if row.came else ""
            return f"{so}{new}{row.finding.severity}: {sentence(row.finding.why)}{ignored}"
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        if self.rows[index.row()].finding is None:
            return Qt.ItemFlag.NoItemFlags
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable


class _Look(QStyledItemDelegate):
    """Paints the rows."""

    def sizeHint(self, _option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(100, index.data(HERE).tall)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        row: _Row = index.data(HERE)
        view, box = option.widget, QRectF(option.rect)
        assert isinstance(view, QListView)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if row.finding is None:
            painter.setFont(font("text", True))
            painter.setPen(theme().ink)
            at = QRectF(LEFT, box.y() + 10, box.width() - LEFT, 20)
            painter.drawText(at, Qt.AlignmentFlag.AlignVCenter, row.title)
        else:
            self._finding(painter, box, row, row.finding, chosen=view.currentIndex() == index, focused=view.hasFocus())
        painter.restore()

    @staticmethod
    def _finding(painter: QPainter, box: QRectF, row: _Row, finding: Finding, *, chosen: bool, focused: bool) -> None:
        t, box = theme(), box.adjusted(8, 0, -8, 0)
        if chosen:
            painter.setPen(QPen(t.accent, 2) if focused else Qt.PenStyle.NoPen)
            painter.setBrush(t.soft)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 5, 5)
        if row.reason:
            painter.setOpacity(0.6)
        if row.follows:
            at = QRectF(LEFT + 22, box.y(), box.right() - LEFT - 32, box.height())
            painter.setFont(font("small"))
            painter.setPen(t.second)
            text = f"so  {finding.short.replace('`', '')}{f'  ({row.title})' if row.title else ''}"
            shown = QFontMetrics(font("small")).elidedText(text, Qt.TextElideMode.ElideRight, round(at.width()))
            painter.drawText(at, Qt.AlignmentFlag.AlignVCenter, shown)
            return
        draw_severity(painter, finding.severity, LEFT + 6, box.y() + 15)
        wide = round(box.right() - LEFT - 32)
        if row.came:
            wide -= _tag(painter, "new", box.right() - 10, box.y() + 8)
        at = QRectF(LEFT + 22, box.y() + 5, wide, 20)
        lines = (
            (finding.short.replace("`", ""), font(), t.ink),
            (row.reason or sentence(finding.why), font("small"), t.second),
        )
        for text, of, colour in lines:
            painter.setFont(of)
            painter.setPen(colour)
            shown = QFontMetrics(of).elidedText(text, Qt.TextElideMode.ElideRight, wide)
            painter.drawText(at, Qt.AlignmentFlag.AlignVCenter, shown)
            at.translate(0, 18)


def _tag(painter: QPainter, word: str, right: float, top: float) -> int:
    """Draw a word on the accent colour, ending at `right`; return its width in pixels."""
    t, of = theme(), font("small", True)
    wide = QFontMetrics(of).horizontalAdvance(word) + 12
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(t.accent)
    painter.drawRoundedRect(QRectF(right - wide, top, wide, 16), 4, 4)
    painter.setFont(of)
    painter.setPen(t.desk)
    painter.drawText(QRectF(right - wide, top, wide, 16), Qt.AlignmentFlag.AlignCenter, word)
    return wide + 8


class FindingRows(QListView):
    """Qt's list, styled. One finding is selected; arrow keys move, a press selects."""

    chosen_changed = Signal()
    entered = Signal()  # Enter: go there

    def __init__(self) -> None:
        super().__init__()
        self._rows = _Rows()
        self._was: Finding | None = None  # the selection, while the rows are replaced
        self._filling = False
        self.setModel(self._rows)
        self.setItemDelegate(_Look(self))
        thin_bars(self)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.viewport().setAutoFillBackground(False)
        self.setAccessibleName("findings")
        self.doubleClicked.connect(lambda _index: self.entered.emit())

    @property
    def chosen(self) -> Finding | None:
        """The selected finding, or None."""
        index = self.currentIndex()
        row: _Row | None = index.data(HERE) if index.isValid() else None
        return row.finding if row is not None else None

    def show_found(
        self,
        project: Project,
        findings: list[Finding],
        quiet: dict[Finding, str],
        by_kind: bool,
        came: Collection[Key] = (),
        gone: Sequence[Finding] = (),
    ) -> None:
        """Replace the list. The selected finding stays selected while it exists, then the one in its place.

        came: keys of findings that are new compared with the earlier version. gone: findings only it had.
        """
        rows: list[_Row] = []
        titles = {widget.id: widget.title for widget in project.widgets}
        rest = {id(cause): those for told in (findings, quiet, gone) for cause, those in with_rest(told)}

        def put(cause: Finding, reason: str = "") -> None:
            rows.append(_Row(finding=cause, reason=reason, came=cause.key in came))
            for one in rest[id(cause)]:
                where = titles.get(one.widget, "") if one.widget != cause.widget else ""
                rows.append(_Row(where or (one.trace if one.trace != cause.trace else ""), one, reason, follows=True))

        for title, causes in _groups(titles, (f for f in findings if id(f) in rest), by_kind):
            rows.append(_Row(title))
            for cause in causes:
                put(cause)
        if quiet:
            rows.append(_Row("Ignored"))
            for cause, reason in quiet.items():
                if id(cause) in rest:
                    put(cause, reason or "no reason given")
        if gone:
            rows.append(_Row("Gone"))
            for cause in gone:
                if id(cause) in rest:
                    put(cause, f"resolved: {sentence(cause.why)}")
        was, self._filling = self.chosen, True
        at = next((i for i, finding in enumerate(self.findings()) if finding is was), 0)
        self._rows.fill(rows)
        every = self.findings()
        same = [finding for finding in every if was is not None and finding.key == was.key]
        exact = [finding for finding in same if was is not None and finding.start == was.start]
        first = next(iter([*exact, *same, *every[min(at, len(every) - 1) :]]), None)
        if first is not None:
            self.choose(first)
        self._filling = False
        self.chosen_changed.emit()

    def findings(self) -> list[Finding]:
        """All of them in the order shown."""
        return [row.finding for row in self._rows.rows if row.finding is not None]

    def choose(self, finding: Finding) -> None:
        """Select a finding of the list."""
        number = next((i for i, row in enumerate(self._rows.rows) if row.finding is finding), None)
        if number is not None and finding is not self.chosen:
            how = QItemSelectionModel.SelectionFlag.ClearAndSelect
            self.selectionModel().setCurrentIndex(self._rows.index(number), how)
            self.scrollTo(self._rows.index(number))

    def walk(self, by: int) -> None:
        """Select the next (previous) one, stopping at the ends."""
        every = self.findings()
        if not every:
            return
        at = next((i for i, finding in enumerate(every) if finding is self.chosen), -1)
        self.choose(every[min(max(0, at + by), len(every) - 1)])

    def currentChanged(self, current: Index, previous: Index) -> None:
        super().currentChanged(current, previous)
        if not self._filling and current.isValid():
            self.chosen_changed.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.entered.emit()
        elif event.text() and event.text().isprintable():
            event.ignore()  # the desk handles letters
        else:
            super().keyPressEvent(event)


def _groups(titles: Mapping[str, str], findings: Iterable[Finding], by_kind: bool) -> list[tuple[str, list[Finding]]]:
    """Group findings under headings, the group with the most severe first. titles: of widgets by id."""
    groups: dict[str, list[Finding]] = {}
    for finding in findings:
        title = finding.code.replace("-", " ").capitalize() if by_kind else titles.get(finding.widget, "The project")
        groups.setdefault(title, []).append(finding)
    order = {title: min(SEVERITIES.index(f.severity) for f in members) for title, members in groups.items()}
    return sorted(groups.items(), key=lambda group: order[group[0]])
