"""Drive the real window through its main views with mouse and key events, and save each view as PNG.

One window is used for all views: each starts from the project as opened, whatever the previous one did to it.
"""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPoint, QPointF, QSettings, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from avrin.app.bind_desk.lanes.scale import HEAD
from avrin.app.controls.popup import Popup
from avrin.app.controls.qt_log import quiet_toolkit
from avrin.app.findings_desk.desk import FindingsDesk
from avrin.app.ladder_desk.desk import LadderDesk
from avrin.app.main import application, make_window
from avrin.app.screens_desk.desk import ScreensDesk
from avrin.app.window.window import SIZE, Window
from avrin.binding.places import RulePlace
from avrin.demo.elsewhere import record_elsewhere
from avrin.demo.game import DIVES, record
from avrin.demo.install import install_demo
from avrin.editor.by_hand import advance_drive, pin, press_action, start_drive, stop_drive, unpin
from avrin.editor.edits import mark_saved, set_rule, set_widget, undo
from avrin.editor.layout import fold_all
from avrin.editor.playback import go_to, go_to_seconds, set_playing
from avrin.editor.selecting import select_variable, select_widget, select_widgets
from avrin.editor.viewing import show_on, show_over
from avrin.errors import AvrinError
from avrin.storage.files import save
from avrin.storage.folders import folder_for
from avrin.storage.journal import content_of
from avrin.trace.store import save_trace

__all__ = ["VIEWS", "begin_anew", "settle", "take_shots"]

DIVES_MORE = 14
LIMIT = 60.0  # seconds a view may take to settle; it is then painted in any case


def take_shots(folder: Path) -> Iterator[Path]:
    """Write the pictures one after another and yield each path. Raises AvrinError if the folder cannot be used."""
    folder_for(folder / "view.png")
    app = application()
    quiet_toolkit()
    app.setCursorFlashTime(0)  # a caret that does not blink
    with tempfile.TemporaryDirectory() as fresh:
        QSettings.setPath(QSettings.Format.NativeFormat, QSettings.Scope.UserScope, fresh)
        QSettings().clear()
        lately = os.environ.get("AVRIN_STATE")
        os.environ["AVRIN_STATE"] = str(Path(fresh) / "state")
        window = make_window(install_demo(Path(fresh) / "brinehook"))
        window.show()
        window.resize(*SIZE)
        window.desk.first_sizes()
        for name, drive in VIEWS.items():
            begin_anew(window)
            settle(app, window)
            drive(window)
            settle(app, window)
            path = folder / f"{name}.png"
            if not window.grab().save(str(path)):
                raise AvrinError("cannot be written", place=(str(path),), advice="Choose another folder")
            yield path
        window.workspace.files.forget_unsaved()
        window.editor.do(mark_saved)
        window.close()
        if lately is None:
            del os.environ["AVRIN_STATE"]
        else:
            os.environ["AVRIN_STATE"] = lately


def settle(app: QApplication, window: Window) -> None:
    """Wait until no work is pending in the window, up to a limit."""
    until = time.monotonic() + LIMIT
    rested = 0
    while rested < 2 and time.monotonic() < until:
        app.processEvents()
        app.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # no event loop runs here that would do it
        rested = 0 if window.busy else rested + 1
        time.sleep(0.02)


def begin_anew(window: Window) -> None:
    """Reset the window to the project as opened, without edits, at its first frame."""
    editor = window.editor
    window.leave_first_page()
    if editor.now.path is not None and content_of(editor.now.path) != window.workspace.files.journaling.seen:
        save(editor.now.history.saved, editor.now.path)
        window.workspace.files.journaling.look()
    for question in list(window.notices.lines):  # each picture shows its own state only
        window.notices.withdraw(question)
    window.workspace.comparison.end()
    editor.do(stop_drive)
    editor.do(unpin)
    while editor.now.history.undo_label:
        editor.do(undo)
    project = editor.now.project
    if editor.now.trace_name != project.traces[0].path:
        window.workspace.traces.show(project.traces[0].path)
    editor.do(show_on, project.screens[0])
    editor.do(show_over, project.plates[0])
    editor.do(select_widget, "")
    editor.do(select_widget, "hull_bar")
    editor.do(go_to, 0)
    desk = window.desk
    desk.lanes.form.close_it()
    window.editor.do(fold_all)
    desk.lanes.show_only("")
    desk.scale.show_all(editor.now.trace.length)
    desk.card.verticalScrollBar().setValue(0)
    desk.chooser.hide()
    for popup in window.findChildren(Popup):
        if popup.isVisible():
            popup.close_it()
    window.show_desk("Bind")
    window.popups.finder.hide()
    window.message.hide()


def _bind(window: Window) -> None:
    """The first view: a bar at a low value."""
    window.editor.do(go_to_seconds, 118)


def _before(window: Window) -> None:
    """A changed rule: the saved HUD wiped over the current one, at the first large difference."""
    editor = window.editor
    editor.do(set_rule, RulePlace("widget", "hull_bar", "inputs", "value"), "hull * 0.6")
    editor.do(go_to_seconds, 60)
    window.comparing.with_saved()
    window.workspace.comparison.wait()
    window.workspace.comparison.show("wipe")
    window.workspace.comparison.put_line(0.2)


def _asked(window: Window) -> None:
    """The project was changed by another program while it was edited here."""
    editor = window.editor
    editor.do(go_to_seconds, 152)
    editor.do(show_over, editor.now.project.plates[2])
    editor.do(select_widget, "lost")
    widget = editor.now.project.widget("lost")
    editor.do(set_widget, replace(widget, inputs={**widget.inputs, "title": "The boat is gone"}), "title of the banner")
    project, path = editor.now.history.saved, editor.now.path
    assert path is not None
    theirs = [replace(one, place=replace(one.place, offset=(0.0, 12.0))) for one in project.widgets[:2]]
    save(replace(project, title="Brinehook II", widgets=(*theirs, *project.widgets[2:])), path)
    window.workspace.files.journaling.look()


def _mistake(window: Window) -> None:
    """A rule with an unknown name."""
    editor = window.editor
    editor.do(go_to_seconds, 118)
    window.desk.card.focus_first()
    edit = window.desk.card.rows[0].edit
    edit.selectAll()
    QTest.keyClicks(edit, "hull + hul_bonus")


def _dropped(window: Window) -> None:
    """A variable dropped onto the picture: a complete bar."""
    window.editor.do(go_to_seconds, 118)
    _drag(window, "air", QPointF(0.5, 0.3))


def _held(window: Window) -> None:
    """A variable's declaration edited in its lane, and its value held."""
    editor = window.editor
    editor.do(go_to_seconds, 118)
    editor.do(select_variable, "hull")
    window.desk.lanes.edit("hull")
    editor.do(pin, "hull", 19.0)
    editor.do(pin, "leak", True)


def _driving(window: Window) -> None:
    """Actions pressed while the clock runs, recorded as a trace."""
    editor = window.editor
    editor.do(go_to_seconds, 64)
    editor.do(start_drive)
    editor.do(set_playing, False)  # the clock is driven here, so that the picture never varies
    for label in ("Hit a rock", "Hit a rock", "Open the seam", "Hit a rock", "Patch", "Hit a rock", "Hit a rock"):
        editor.do(press_action, label)
        for _ in range(3):
            editor.do(advance_drive, 0.9)
    window.desk.lanes.show_only("h")
    window.desk.lanes.show_only("")


def _drag(window: Window, name: str, share: QPointF) -> None:
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
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, goal)


def _several(window: Window) -> None:
    """Several selected widgets, with the commands for all of them."""
    window.editor.do(go_to_seconds, 118)
    window.editor.do(select_widgets, "hull_bar", "air_bar", "spare_cells", "depth", "tide")


def _bands(window: Window) -> None:
    """A third band being split off on the strip, and the colour of another one being chosen."""
    window.editor.do(go_to_seconds, 118)
    card = window.desk.card
    bands = card.bands
    assert bands is not None
    bands.split_at(0.6)
    made = window.desk.card.bands
    assert made is not None
    QTest.mouseMove(made, QPoint(round(made.width() * 0.8), 40))
    card.verticalScrollBar().setValue(150)
    line = window.desk.card.band_lines[1]
    QTest.mouseClick(line.swatch, Qt.MouseButton.LeftButton)
    window.message.hide()


def _zones(window: Window) -> None:
    """The zones a plate keeps clear, drawn in the picture."""
    window.editor.do(go_to_seconds, 118)
    window.editor.do(select_widget, "")
    window.popups.plate.open_under(window.header.plate)
    area = window.desk.hud.picture_rect()
    inside = QPointF(area.x() + area.width() * 0.55, area.y() + area.height() * 0.6).toPoint()
    QTest.mouseClick(window.desk.hud, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, inside)


def _film(window: Window) -> None:
    """A film of the game behind the HUD, compared with the recording."""
    editor = window.editor
    editor.do(go_to_seconds, 93.9)
    editor.do(show_over, next(plate for plate in editor.now.project.plates if plate.film))
    window.header.plate_edit_wanted.emit(window.header.plate)
    window.repaint()
    while window.workspace.video.busy or window.popups.plate.film.busy:
        time.sleep(0.01)
        application().processEvents()


def _ladder(window: Window) -> None:
    """Every widget around its thresholds, over all recordings."""
    window.editor.do(go_to_seconds, 118)
    window.show_desk("Ladder")


def _warning(window: Window) -> None:
    """Tuning a warning: another limit selected."""
    window.editor.do(go_to_seconds, 118)
    window.show_desk("Ladder")
    desk = window.desks.currentWidget()
    assert isinstance(desk, LadderDesk)
    desk.show_face(2)
    desk.warning.ask_about("hull_bar", "low")
    desk.wait()
    settle(application(), window)
    desk.warning.ask_at(0.09)


def _many(window: Window) -> None:
    """A sweep over a dozen more dives: their states, sorted by the worst."""
    window.editor.do(go_to_seconds, 118)
    folder = window.editor.now.folder / "play-tests"
    for number in range(DIVES_MORE):
        dive = replace(DIVES[1], seed=900 + number, seconds=170.0)
        save_trace(record(dive), folder_for(folder / f"day-{1 + number // 8}/play-{number + 1:02}.parquet"))
    window.show_desk("Ladder")
    desk = window.desks.currentWidget()
    assert isinstance(desk, LadderDesk)
    desk.show_face(3)
    desk.many.sweeps.start("play-tests")
    settle(application(), window)
    desk.many.rows.sort_by(2)


def _screens(window: Window) -> None:
    """Every screen over every plate, with a warning."""
    window.editor.do(go_to_seconds, 118)
    window.show_desk("Screens")


def _languages(window: Window) -> None:
    """The HUD in all its languages, and in the two pseudo-languages."""
    window.editor.do(go_to_seconds, 196)
    window.show_desk("Screens")
    desk = window.desks.currentWidget()
    assert isinstance(desk, ScreensDesk)
    desk.lay_along("", "languages")


def _findings(window: Window) -> None:
    """The project with many errors, at the frame at which a value skips an equality test."""
    assert window.editor.now.path is not None
    window.open(install_demo(window.editor.now.path.parent, troubled=True))
    window.workspace.checking.wait()  # however long that takes on a busy machine
    window.show_desk("Findings")
    settle(application(), window)
    desk = window.desks.currentWidget()
    assert isinstance(desk, FindingsDesk)
    desk.rows.choose(next(finding for finding in desk.rows.findings() if finding.code == "leapt-over"))


def _first_page(window: Window) -> None:
    """The first page, with recent projects."""
    window.show_first_page()


def _begin(window: Window) -> None:
    """A recording of another game, just opened: its columns, its offers, its lanes."""
    assert window.editor.now.path is not None
    path = record_elsewhere(window.editor.now.path.parent)
    window.show_first_page()
    window.open_files([path])
    settle(application(), window)
    window.editor.do(go_to_seconds, 118)


VIEWS: dict[str, Callable[[Window], None]] = {
    "bind": _bind,
    "before": _before,
    "bind-mistake": _mistake,
    "bind-dropped": _dropped,
    "asked": _asked,
    "bind-held": _held,
    "bind-driving": _driving,
    "bind-several": _several,
    "bind-bands": _bands,
    "zones": _zones,
    "film": _film,
    "ladder": _ladder,
    "warning": _warning,
    "many": _many,
    "screens": _screens,
    "languages": _languages,
    "findings": _findings,
    "first-page": _first_page,
    "begin": _begin,
}
