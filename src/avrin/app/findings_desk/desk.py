"""The Findings desk: the list at the left; at the right the selected one's moment, explanation and commands."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from avrin.app.controls.assistive import Assisted, Role
from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.scroller import ThinLine
from avrin.app.controls.theme import EDGE, font, theme
from avrin.app.findings_desk.finding_rows import FindingRows, draw_severity, sentence
from avrin.app.findings_desk.moment import LanePart, MomentPicture
from avrin.app.services.workspace import Workspace
from avrin.binding.tracks import Tracks
from avrin.editor.changes import Change
from avrin.editor.playback import go_to
from avrin.editor.selecting import select_variable, select_widget
from avrin.editor.viewing import show_in, show_on, show_over
from avrin.findings.finding import SEVERITIES, Finding
from avrin.findings.registry import CHECKS
from avrin.i18n.own_language import OWN
from avrin.project.numbers import counted
from avrin.render.values import clock

__all__ = ["FindingsDesk"]

LIST_WIDE = 420


class FindingsDesk(QWidget):
    """Arrow keys move; Enter goes there, F fixes, H ignores."""

    wants_desk = Signal(str)  # where it can be seen

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.editor = editor = workspace.editor
        self._checking, self._comparison, self._traces = workspace.checking, workspace.comparison, workspace.traces
        self.by_kind = False
        self._walked = False
        self.rows = FindingRows()
        self.rows.chosen_changed.connect(self._show_chosen)
        self.rows.entered.connect(self.go_there)
        self.picture = MomentPicture(editor, workspace.video)
        self.lane = LanePart(editor)
        self._build()
        self.setFocusProxy(self.rows)
        editor.follow("findings desk", self)
        self.refresh()

    def on_change(self, _change: Change) -> None:
        """Show the findings as they are now."""
        self.refresh()

    def _build(self) -> None:
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, EDGE, 0)
        whole.setSpacing(0)
        left = QWidget()
        left.setFixedWidth(LIST_WIDE)
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 14, 0, 0)
        column.setSpacing(4)
        top = QHBoxLayout()
        top.setContentsMargins(EDGE, 0, 8, 0)
        self.title = text_label("", "ink", "title", bold=True)
        self.grouping = Link("", self._regroup, bold=True)
        top.addWidget(self.title)
        top.addStretch(1)
        top.addWidget(self.grouping)
        column.addLayout(top)
        self.counts = _Counts()
        column.addWidget(self.counts)
        column.addWidget(self.rows, 1)
        whole.addWidget(left)
        whole.addWidget(ThinLine(upright=True))
        self.right = QStackedWidget()
        self.right.addWidget(self._chosen_side())
        self.empty = text_label(size="large", wrap=True)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.right.addWidget(self.empty)
        whole.addWidget(self.right, 1)

    def _chosen_side(self) -> QWidget:
        side = QWidget()
        column = QVBoxLayout(side)
        column.setContentsMargins(EDGE, 14, 0, 12)
        column.setSpacing(8)
        self.why = text_label("", "ink", "title", bold=True, wrap=True)
        self.where = text_label()
        self.advice = text_label("", "ink", "large", wrap=True)
        column.addWidget(self.why)
        column.addWidget(self.where)
        column.addWidget(self.picture)
        column.addWidget(self.lane)
        column.addWidget(self.advice)
        acts = QHBoxLayout()
        acts.setContentsMargins(-7, 0, 0, 0)  # a link has padding around its text
        acts.setSpacing(10)
        self.fix_link = Link("", self.fix, bold=True)
        self.go_link = Link("go there   Enter", self.go_there, bold=True)
        self.ignore_link = Link("", self.ignore, bold=True)
        self.reason = Field("reason for ignoring it", 320)
        self.reason.setPlaceholderText("why it can be ignored")
        self.reason.returnPressed.connect(self._ignore_selected)
        self.reason.exited.connect(self._cancel_ignoring)
        self.reason.hide()
        for part in (self.fix_link, self.go_link, self.ignore_link, self.reason):
            acts.addWidget(part)
        acts.addStretch(1)
        column.addLayout(acts)
        column.addStretch(1)
        return side

    @property
    def busy(self) -> bool:
        """Whether findings are being computed."""
        return self._checking.busy

    # -- display ----------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the current findings and project."""
        checking = self._checking
        found, causes = checking.findings, checking.causes
        nothing = "Nothing found" if checking.has_looked else "Looking …"
        if checking.failure is not None:
            nothing = "The checks could not run"
        count = len(causes)
        came, gone = self._since()
        since = f": {len(came)} came, {len(gone)} went" if self._comparison.findings is not None else ""
        self.title.setText((counted(count, "finding") if count else nothing) + since)
        self.grouping.set_text("by kind" if self.by_kind else "by widget")
        self.grouping.setToolTip("Group them by widget" if self.by_kind else "Group them by kind")
        note = f"{checking.left_out} recordings left out" if checking.left_out else ""
        if checking.until is not None:
            note = f"up to {clock(checking.until)}"
        if checking.busy:
            note = "looking …"
        elif checking.failure is not None:
            note = "not up to date"
        self.counts.show_counts(causes, note)
        self.rows.show_found(self.editor.now.project, found, checking.quiet, self.by_kind, came, gone)

    def _since(self) -> tuple[set[tuple[str, str, str]], list[Finding]]:
        """Compare with the earlier version: keys of new findings, and findings only it had."""
        checking, before = self._checking, self._comparison.findings
        if before is None:
            return set(), []
        now = {one.key for one in (*checking.findings, *checking.quiet)}
        there = {"", *(widget.id for widget in self.editor.now.project.widgets)}
        gone = [replace(one, fix=None) for key, one in before.items() if key not in now and one.widget in there]
        return now - before.keys(), gone

    def _regroup(self) -> None:
        self.by_kind = not self.by_kind
        self.refresh()

    def _tracks(self, finding: Finding) -> Tracks:
        """Return tracks of a finding's recording, or of the visible one."""
        return self._checking.tracks_of(finding.trace) or self.editor.now.tracks

    def _show_chosen(self) -> None:
        finding = self.rows.chosen
        self.right.setCurrentIndex(0 if finding is not None else 1)
        self.reason.hide()
        if finding is None:
            waiting = not self._checking.has_looked
            count = len(self.editor.now.project.traces)
            over = counted(count, "recording") if count else "no recording yet"
            failure = self._checking.failure
            if failure is not None and not self._checking.busy:
                self.empty.setText(f"The checks could not run: {failure}.\nThe next edit starts them again.")
            else:
                self.empty.setText("Looking …" if waiting else f"{len(CHECKS)} checks found nothing, over {over}.")
            return
        tracks = self._tracks(finding)
        self.why.setText(sentence(finding.why))
        self.where.setText(self._where(finding, tracks))
        self.advice.setText(sentence(finding.advice))
        self.picture.show_finding(finding, tracks)
        self.lane.show_finding(finding, tracks)
        quiet = finding in self._checking.quiet
        self.fix_link.setVisible(finding.fix is not None and not quiet)
        if finding.fix is not None:
            self.fix_link.set_text(f"{finding.fix.label}   F")
        self.ignore_link.set_text("report it again   H" if quiet else "ignore …   H")

    def _where(self, finding: Finding, tracks: Tracks) -> str:
        parts = [finding.severity, finding.code]
        parts.append(f"follows from {finding.cause[0]}" if finding.cause is not None else "")
        if finding.start is not None:
            at = float(tracks.trace.axis[min(finding.start, len(tracks.trace) - 1)])
            parts.append(f"{clock(at)} in {finding.trace or tracks.trace.name}")
        parts += [f"on {finding.screen}" if finding.screen else "", f"over {finding.plate}" if finding.plate else ""]
        parts.append(f"in {finding.language}" if finding.language else "")
        quiet = self._checking.quiet.get(finding)
        parts.append(f"ignored: {quiet}" if quiet is not None else "")
        return "   ·   ".join(part for part in parts if part)

    # -- commands ---------------------------------------------------------------------------------------------------

    def walk(self, by: int, *, begin: bool = False) -> None:
        """Go to the next (previous) finding. begin: to the first (last) if none was visited yet."""
        if begin and not self._walked and (every := self.rows.findings()):
            self.rows.choose(every[0 if by > 0 else -1])
        else:
            self.rows.walk(by)
        self._walked = True
        self.rows.setFocus()

    def fix(self) -> None:
        """Apply the finding's fix; undo reverts it."""
        finding = self.rows.chosen
        if finding is not None and finding.fix is not None and self.fix_link.isVisibleTo(self):
            self._checking.fix(finding)

    def ignore(self) -> None:
        """Ask for the reason to ignore a finding; report an ignored one again."""
        finding = self.rows.chosen
        if finding is None:
            return
        if finding in self._checking.quiet:
            self._checking.report_again(finding)
            return
        self.reason.setText("")
        self.reason.show()
        self.reason.setFocus()

    def _ignore_selected(self) -> None:
        reason = self.reason.text().strip()
        if self.rows.chosen is not None and reason:
            self._checking.ignore(self.rows.chosen, reason)
        self._cancel_ignoring()

    def _cancel_ignoring(self) -> None:
        self.reason.hide()
        self.rows.setFocus()

    def go_there(self) -> None:
        """Show the Bind desk at the moment, with the widget selected."""
        finding = self.rows.chosen
        if finding is None:
            return
        editor = self.editor
        if not self._traces.look_at(finding.trace):
            return
        screen = next((one for one in editor.now.project.whole_screens if one.name == finding.screen), None)
        if screen is not None:
            editor.do(show_on, screen)
        plate = next((one for one in editor.now.project.plates if one.name == finding.plate), None)
        if plate is not None:
            editor.do(show_over, plate)
        editor.do(show_in, finding.language or OWN)
        if finding.widget:
            editor.do(select_widget, finding.widget)
        elif finding.variable:
            editor.do(select_variable, finding.variable)
        if finding.start is not None:
            editor.do(go_to, finding.start)
        self.wants_desk.emit("Bind")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_F:
            self.fix()
        elif event.key() == Qt.Key.Key_H:
            self.ignore()
        else:
            super().keyPressEvent(event)


class _Counts(Assisted, QWidget):
    """The number of findings of each severity."""

    assisted_role = Role.StaticText

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(22)
        self._counts: list[int] = [0] * len(SEVERITIES)
        self.note = ""
        self.setToolTip("In the window the checks look at some 1,500,000 frames; `avrin check` looks at all")

    def show_counts(self, findings: list[Finding], note: str) -> None:
        """Update the counts. note: additional text about the checks."""
        self._counts = [sum(finding.severity == severity for finding in findings) for severity in SEVERITIES]
        self.note = note
        self.setAccessibleName(", ".join([*map(counted, self._counts, SEVERITIES), *([note] if note else [])]))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font("small"))
        x = float(EDGE)
        for severity, count in zip(SEVERITIES, self._counts, strict=True):
            draw_severity(painter, severity, x + 6, 10)
            painter.setPen(theme().second)
            text = counted(count, severity)
            painter.drawText(QRectF(x + 17, 0, 90, 20), Qt.AlignmentFlag.AlignVCenter, text)
            x += 88
        painter.setPen(theme().third)
        painter.drawText(QRectF(x, 0, 140, 20), Qt.AlignmentFlag.AlignVCenter, self.note)
