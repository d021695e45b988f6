"""What the window exposes to assistive technology, read through Qt's accessibility interface."""

from __future__ import annotations

import gc
import inspect

import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QAccessible, QAccessibleInterface
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QLineEdit,
    QPlainTextEdit,
    QSplitterHandle,
    QWidget,
)
from pytestqt.qtbot import QtBot

from avrin.app.bind_desk.card.band_strip import BandStrip
from avrin.app.bind_desk.card.chips import Chips
from avrin.app.bind_desk.card.fields import StructFields
from avrin.app.controls.assistive import Assisted
from avrin.app.controls.choice import Choice
from avrin.app.controls.link import Link
from avrin.app.findings_desk.desk import FindingsDesk
from avrin.app.ladder_desk.desk import LadderDesk
from avrin.app.main import application
from avrin.app.window.desks import DESKS
from avrin.app.window.window import Window
from avrin.editor.by_hand import stop_drive, unpin
from avrin.editor.edits import undo
from avrin.editor.playback import change_speed, go_to_seconds
from avrin.editor.selecting import select_widget
from window_fixtures import carried, one_window, qapp  # noqa: F401

Role = QAccessible.Role
# Painted frames, backgrounds and lines, which carry no information.
BARE = {"Window", "Header", "Footer", "Ribbons", "ThinLine", "Fade", "KindChooser", "Popup", "ActionEdit", "TraceEdit",
        "RecordingEdit", "DeclarationEdit", "RuleRow"}  # fmt: skip
OWN = (QAbstractButton, QAbstractItemView, QComboBox, QLineEdit, QPlainTextEdit, QSplitterHandle)


def of(control: QWidget) -> QAccessibleInterface:
    return QAccessible.queryAccessibleInterface(control)


def parts(control: QWidget) -> list[QAccessibleInterface]:
    """What can be seen in a painted control."""
    assert isinstance(control, Assisted)
    whole = of(control)
    count = len(control.assisted_parts())
    return [whole.child(i) for i in range(whole.childCount() - count, whole.childCount())]


def name(item: QAccessibleInterface) -> str:
    return item.text(QAccessible.Text.Name)


def value(item: QAccessibleInterface) -> str:
    return item.text(QAccessible.Text.Value)


def press(item: QAccessibleInterface) -> None:
    action = item.actionInterface()
    assert action is not None
    assert action.actionNames()[0] == "Press"
    action.doAction("Press")
    application().processEvents()


@pytest.mark.parametrize("desk", [desk.name for desk in DESKS])
def test_whatever_is_painted_tells_what_it_is(carried: Window, desk: str) -> None:
    carried.show_desk(desk)
    application().processEvents()
    silent = []
    for widget in [carried, *carried.findChildren(QWidget)]:
        paints = any(
            "paintEvent" in vars(kind) for kind in inspect.getmro(type(widget)) if kind.__module__.startswith("avrin.")
        )
        if paints and type(widget).__name__ not in BARE and widget.isVisible():
            if isinstance(widget, Assisted):
                assert of(widget).role() == widget.assisted_role
                assert name(of(widget)) or parts(widget) or value(of(widget)), type(widget)
            elif not isinstance(widget, OWN):
                silent.append(type(widget).__name__)
    assert silent == []


@pytest.mark.parametrize("desk", [desk.name for desk in DESKS])
def test_every_stop_of_tab_has_a_name(carried: Window, desk: str) -> None:
    carried.show_desk(desk)
    application().processEvents()
    stops = [w for w in carried.findChildren(QWidget) if w.focusPolicy() & Qt.FocusPolicy.TabFocus and w.isVisible()]
    assert len(stops) > 8
    nameless = [type(w).__name__ for w in stops if not name(of(w)) and type(w).__module__.startswith("avrin.")]
    assert nameless == []


def test_links_are_buttons_that_can_be_pressed_by_any_means(carried: Window, qtbot: QtBot) -> None:
    drive = next(link for link in carried.findChildren(Link) if link.text() == "drive by hand")
    told = of(drive)
    assert (told.role(), name(told)) == (Role.Button, "drive by hand")
    assert told.state().focusable
    press(told)
    qtbot.waitUntil(
        lambda: carried.editor.now.live is not None, timeout=60_000
    )  # the toolkit shows the press for a moment
    carried.editor.do(stop_drive)
    for key in (Qt.Key.Key_Return, Qt.Key.Key_Space):
        carried.workspace.traces.show("traces/leaky-dive.csv")
        drive.setFocus()
        QTest.keyClick(drive, key)
        assert carried.editor.now.live is not None
        carried.editor.do(stop_drive)


def test_desks_are_tabs_with_what_there_is_to_look_at(carried: Window) -> None:
    tabs = {name(of(tab)): of(tab) for tab in carried.header.tabs.values()}
    assert [*tabs] == [f"{desk.name} desk" for desk in DESKS]
    assert all(tab.role() == Role.PageTab for tab in tabs.values())
    assert value(tabs["Findings desk"]) == str(len(carried.workspace.checking.findings))
    assert tabs["Bind desk"].text(QAccessible.Text.Description) == "shown"
    press(tabs["Ladder desk"])
    assert isinstance(carried.desks.currentWidget(), LadderDesk)
    assert tabs["Bind desk"].text(QAccessible.Text.Description) == ""


def test_the_picture_names_its_widgets_and_a_press_selects_one(carried: Window) -> None:
    carried.editor.do(go_to_seconds, 118)
    seen = {name(item): item for item in parts(carried.desk.hud)}
    assert of(carried.desk.hud).role() == Role.Graphic
    assert seen["Hull bar"].state().selected
    press(seen["Scrap"])
    assert carried.editor.now.selection.widget == "scrap"
    assert not seen["Hull bar"].state().selected
    centre = seen["Scrap"].rect().center()
    assert of(carried.desk.hud).childAt(centre.x(), centre.y()).rect().contains(centre)


def test_lanes_say_what_their_heads_say(carried: Window) -> None:
    carried.editor.do(go_to_seconds, 118)
    lanes = {name(item): item for item in parts(carried.desk.lanes)}
    assert value(lanes["Hull bar"]) == "low  22 %"
    assert value(lanes["hull"]) == "30.1 pt"
    assert value(lanes["hauled"]) == "8×"
    assert lanes["Hull bar"].state().selected
    press(lanes["hull"])
    assert carried.editor.now.selection.variable == "hull"
    assert lanes["hull"].state().selected


def test_the_ruler_is_a_slider_over_the_recording(carried: Window) -> None:
    ruler = of(carried.desk.ruler)
    assert ruler.role() == Role.Slider
    scale = ruler.valueInterface()
    assert scale.minimumValue() == 0
    assert scale.maximumValue() == pytest.approx(carried.editor.now.trace.length)
    scale.setCurrentValue(118.0)
    assert carried.editor.now.seconds == pytest.approx(118)
    assert scale.currentValue() == carried.editor.now.seconds
    assert value(ruler) == "1:58.00"
    play, walk, speed = parts(carried.desk.ruler)
    assert value(walk) == "moments"
    press(walk)
    assert value(walk) == "differences"
    carried.desk.ruler.walk_the("moments")
    press(speed)
    assert (carried.editor.now.speed, value(speed)) == (2.0, "2×")
    carried.editor.do(change_speed, -1)
    assert name(play) == "Play"
    press(play)
    assert carried.editor.now.playing
    assert name(play) == "Pause"
    press(play)


def test_the_card_tells_its_thing_its_chips_its_bands_and_its_rungs(carried: Window) -> None:
    carried.editor.do(go_to_seconds, 118)
    card = carried.desk.card
    head = next(w for w in card.findChildren(QWidget) if type(w).__name__ == "Head")
    assert (of(head).role(), name(of(head)), value(of(head))) == (Role.Heading, "Hull bar, bar in group dive", "low")
    row = next(row for row in card.rows if row.place.input == "value")
    assert of(row.edit).text(QAccessible.Text.Description) == f"= {row.result()}"
    (hull,) = parts(row.chips)
    assert (hull.role(), name(hull), value(hull)) == (Role.Button, "hull", "30.1")
    (strip,) = card.findChildren(BandStrip)
    bands = {name(item): item.state().selected for item in parts(strip)}
    assert bands == {"critical below 10%": False, "low below 25%": True}
    assert card.ladder is not None
    card.ladder._begin()
    card.ladder._climbing.wait()
    samples = {name(item): item for item in parts(card.ladder)}
    assert value(samples["hull missing"]) == "no frame of this recording shows it"
    press(samples["hull missing"])
    assert carried.editor.now.pins == {"hull": None}, "what was never shown is held"
    carried.editor.do(unpin)
    press(samples["hull 42"])
    assert carried.editor.now.value("hull") == pytest.approx(91, abs=49)  # somewhere up to the next edge
    press(hull)
    assert carried.editor.now.selection.variable == "hull"


def test_a_choice_is_the_toolkits_combo(carried: Window) -> None:
    fields = next(f for f in carried.desk.card.findChildren(StructFields) if f.which == "options")
    grow = fields.fields["grow"]
    assert isinstance(grow, Choice)
    told = of(grow)
    assert told.role() == Role.ComboBox
    labels = [name(item) for item, relation in told.relations() if relation & QAccessible.RelationFlag.Label]
    assert (name(told), labels) == ("right", ["grow"])
    QTest.keyClick(grow, Qt.Key.Key_Down)
    QApplication.processEvents()
    assert carried.editor.now.project.widget("hull_bar").options["grow"] == "left"
    carried.editor.do(undo)
    assert grow.currentText() == "right"


def test_findings_are_a_list_each_with_its_sentence(carried: Window) -> None:
    carried.show_desk("Findings")
    desk = carried.desks.currentWidget()
    assert isinstance(desk, FindingsDesk)
    told = of(desk.rows)
    assert told.role() == Role.List
    items = [told.child(i) for i in range(told.childCount())]
    every = desk.rows.findings()
    said = [name(item) for item in items if name(item).startswith(("error: ", "warning: ", "hint: "))]
    assert len(said) == len(every)
    assert said[0] == f"{every[0].severity}: {every[0].why.replace('`', '')}."
    assert name(of(desk.counts)) == "0 errors, 0 warnings, 5 hints"


def test_cells_of_the_ladder_say_what_the_recordings_showed(carried: Window) -> None:
    carried.editor.do(go_to_seconds, 118)
    carried.show_desk("Ladder")
    desk = carried.desks.currentWidget()
    assert isinstance(desk, LadderDesk)
    desk.rows.setFocus()
    desk.begin_anew()
    desk.wait()
    cells = {name(item): item for item in parts(desk.rows)}
    assert value(cells["Hull bar, hull missing"]) == "never recorded. Press to pin the value"
    for _ in range(2):  # the present cell is the first
        QTest.keyClick(desk.rows, Qt.Key.Key_Right)
    assert [name(item) for item in parts(desk.rows) if item.state().selected] == ["Hull bar, hull missing"]
    press(cells["Hull bar, hull missing"])
    assert carried.editor.now.pins == {"hull": None}


def test_interfaces_end_with_their_controls(carried: Window) -> None:
    QAccessible.setActive(True)
    for _ in range(10):
        carried.editor.do(select_widget, "scrap")
        carried.editor.do(select_widget, "hull_bar")
        for chips in carried.desk.card.findChildren(Chips):
            for item in parts(chips):
                assert QAccessible.accessibleInterface(QAccessible.uniqueId(item)) is not None
        application().sendPostedEvents(None, QEvent.Type.DeferredDelete)
        gc.collect()
    QAccessible.setActive(False)
