"""Drive the real window through its main views with real mouse and key events, and write what it shows as PNG."""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from PySide6.QtCore import QPoint, QPointF, QSettings, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from avrin.app.bind_desk.lanes.scale import HEAD
from avrin.app.findings_desk import FindingsDesk
from avrin.app.ladder_desk import LadderDesk
from avrin.app.main import application, make_window
from avrin.app.window.window import SIZE, Window
from avrin.demo import install_demo
from avrin.model import AvrinError

__all__ = ["take_shots"]

REST = 0.8  # seconds until what follows the playhead lazily has followed


def take_shots(folder: Path) -> Iterator[Path]:
    """Write the pictures one after another, giving each one's path. Raises AvrinError when the folder cannot be used."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise AvrinError(f"cannot be made ({(error.strerror or str(error)).lower()})", place=(str(folder),)) from None
    app = application()
    with tempfile.TemporaryDirectory() as fresh:
        QSettings.setPath(QSettings.Format.NativeFormat, QSettings.Scope.UserScope, fresh)
        for name, drive in VIEWS:
            QSettings().clear()
            window = make_window(install_demo(Path(fresh) / "brinehook"))
            window.show()
            window.resize(*SIZE)
            window.desk.first_sizes()
            _settle(app)
            drive(window)
            window.session.checking.settle()
            _settle(app)
            path = folder / f"{name}.png"
            if not window.grab().save(str(path)):
                raise AvrinError("cannot be written", place=(str(path),), advice="Choose another folder")
            window.session.files.forget_unsaved()
            window.session.history.mark_saved()
            window.close()
            yield path


def _settle(app: QApplication) -> None:
    until = time.monotonic() + REST
    while time.monotonic() < until:
        app.processEvents()
        time.sleep(0.001)


def _bind(window: Window) -> None:
    """The first view: a bar that is low."""
    window.session.go_to_seconds(118)


def _zoomed(window: Window) -> None:
    """A counter over another plate, the lanes close up around a loss and a restart."""
    session = window.session
    session.show_over(session.project.plates[1])
    session.select_widget("scrap")
    session.go_to_seconds(147.4)
    for _ in range(3):
        QTest.keyClick(window, Qt.Key.Key_Plus)
    window.desk.lanes.reveal("hull_bar", widget=True)


def _mistake(window: Window) -> None:
    """A rule with a name nobody knows."""
    session = window.session
    session.go_to_seconds(118)
    window.desk.card.focus_first()
    edit = window.desk.card.rows[0].edit
    edit.selectAll()
    QTest.keyClicks(edit, "hull + hul_bonus")


def _dragging(window: Window) -> None:
    """A variable on its way onto the picture."""
    window.session.go_to_seconds(118)
    window.session.select_widget("")
    _drag(window, "depth", QPointF(0.5, 0.3), let_go=False)


def _dropped(window: Window) -> None:
    """The same variable, dropped: a complete bar."""
    window.session.go_to_seconds(118)
    _drag(window, "depth", QPointF(0.5, 0.3), let_go=True)


def _lost(window: Window) -> None:
    """The end of a run, over the third plate."""
    session = window.session
    session.show_over(session.project.plates[2])
    session.select_widget("lost")
    session.go_to_seconds(152)


def _held(window: Window) -> None:
    """A variable's declaration being edited in its lane, and its value held by hand."""
    session = window.session
    session.go_to_seconds(118)
    session.select_variable("hull")
    window.desk.lanes.edit("hull")
    session.hand.pin("hull", 19.0)
    session.hand.pin("leak", True)


def _driving(window: Window) -> None:
    """Actions pressed while the clock runs, recorded as a trace."""
    session = window.session
    session.go_to_seconds(64)
    session.hand.start()
    session.set_playing(False)  # the clock is ours here, so that the picture is always the same
    for label in ("Hit a rock", "Hit a rock", "Open the seam", "Hit a rock", "Patch", "Hit a rock", "Hit a rock"):
        session.hand.press(label)
        for _ in range(3):
            session.hand.go_on(0.9)
    window.desk.lanes.show_only("h")
    window.desk.lanes.show_only("")


def _writing(window: Window) -> None:
    """A rule on its way: what could be written next, with values and help."""
    window.session.go_to_seconds(118)
    window.desk.card.focus_first()
    edit = window.desk.card.rows[0].edit
    edit.selectAll()
    QTest.keyClicks(edit, "hull - cl")


def _events(window: Window) -> None:
    """A roster unfolded, and what happened, with its arguments."""
    session = window.session
    session.go_to_seconds(118)
    session.select_variable("hauled()")
    window.desk.lanes.reveal("crew[0].name")
    window.desk.lanes.verticalScrollBar().setValue(window.desk.lanes.verticalScrollBar().maximum())


def _drag(window: Window, name: str, share: QPointF, *, let_go: bool) -> None:
    """Drag a variable's lane head to a point of the picture, given as shares of its sides."""
    lanes, hud = window.desk.lanes, window.desk.hud
    lanes.reveal(name)
    rect = lanes.lane_rect(name)
    assert rect is not None
    start = QPoint(HEAD // 4, rect.center().y())
    area = hud.picture_rect()
    end = hud.mapTo(
        window, QPoint(round(area.x() + share.x() * area.width()), round(area.y() + share.y() * area.height()))
    )
    view: QWidget = lanes.viewport()
    goal = view.mapFrom(window, end)
    QTest.mousePress(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    for i in range(1, 6):
        QTest.mouseMove(view, start + (goal - start) * i / 5)
    if let_go:
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, goal)


def _ladder(window: Window) -> None:
    """Every widget around its thresholds, over all recordings."""
    window.session.go_to_seconds(118)
    window.session.checking.settle()
    _settle(application())
    window.show_desk("Ladder")
    desk = window.desks.currentWidget()
    assert isinstance(desk, LadderDesk)
    desk.settle()


def _findings(window: Window) -> None:
    """The project with many faults, at the frame at which a value leaps over an equality."""
    assert window.session.path is not None
    window.session.files.open(install_demo(window.session.path.parent, troubled=True))
    window.session.checking.settle()
    window.show_desk("Findings")
    _settle(application())
    desk = window.desks.currentWidget()
    assert isinstance(desk, FindingsDesk)
    desk.rows.choose(next(finding for finding in desk.rows.findings() if finding.code == "leapt-over"))


VIEWS: tuple[tuple[str, Callable[[Window], None]], ...] = (
    ("bind", _bind),
    ("bind-close", _zoomed),
    ("bind-mistake", _mistake),
    ("bind-dragging", _dragging),
    ("bind-dropped", _dropped),
    ("bind-lost", _lost),
    ("bind-held", _held),
    ("bind-driving", _driving),
    ("bind-writing", _writing),
    ("bind-events", _events),
    ("ladder", _ladder),
    ("findings", _findings),
)


def _quiet() -> None:
    os.environ.setdefault("QT_LOGGING_RULES", "qt.qpa.*=false")


_quiet()
