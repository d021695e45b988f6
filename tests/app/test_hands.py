"""Many widgets at once, exact places, order, clipboard, commands: by mouse and keys, read back from the saved file.

Nothing of the program is asked here but the window that the fixture gives: what was done stands in the project's file.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, QSettings, Qt
from PySide6.QtGui import QContextMenuEvent, QGuiApplication, QMouseEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu, QWidget

from gestures import ALT, CTRL, LEFT, PLAIN, SHIFT, Hand, Key
from window_fixtures import choose, qapp, window  # noqa: F401


@pytest.fixture
def hand(window: Any) -> Hand:
    return Hand(window)


# -- choosing and moving ------------------------------------------------------------------------------------------------


def test_shift_chooses_more_and_they_move_together(hand: Hand) -> None:
    hand.press(hand.at("scrap"))
    hand.press(hand.at("tide"), SHIFT)
    before = {name: hand.offset(name) for name in ("scrap", "tide", "depth")}
    hand.drag(hand.at("tide"), QPoint(-40, 20), CTRL)
    moved = {name: hand.offset(name) for name in before}
    ways = {name: (moved[name][0] - before[name][0], moved[name][1] - before[name][1]) for name in before}
    assert ways == {"scrap": (-100, 50), "tide": (-100, 50), "depth": (0, 0)}  # 2.5 reference pixels a pixel
    hand.press(hand.at("tide"), SHIFT)  # no longer one of them
    hand.key(Key.Key_Right, ALT)
    hand.key(Key.Key_Right, ALT | SHIFT)
    assert hand.offset("scrap") == (moved["scrap"][0] + 11, moved["scrap"][1])
    assert hand.offset("tide") == moved["tide"]
    hand.key(Key.Key_Z, CTRL)  # both steps of the arrows are one
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


def test_a_rectangle_chooses_what_it_touches(hand: Hand) -> None:
    scrap, empty = hand.at("scrap"), QPoint(560, 150)
    hand.drag(empty, QPoint(700, 60) - empty)
    hand.key(Key.Key_Delete)
    assert [one for one in map(str, [w["id"] for w in hand.before["widgets"]]) if one not in hand.ids()] == ["tide"]
    hand.key(Key.Key_Z, CTRL)
    hand.press(scrap)
    hand.drag(empty, QPoint(700, 60) - empty, SHIFT)  # with what was chosen
    hand.key(Key.Key_Delete)
    assert {w["id"] for w in hand.before["widgets"]} - set(hand.ids()) == {"tide", "scrap"}
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


def test_a_press_without_a_drag_chooses_that_one_alone(hand: Hand) -> None:
    hand.key(Key.Key_A, CTRL)
    hand.press(hand.at("scrap"))
    hand.key(Key.Key_Delete)
    assert {w["id"] for w in hand.before["widgets"]} - set(hand.ids()) == {"scrap"}


def test_what_hides_stays_chosen_and_is_dragged_in_its_frame(hand: Hand) -> None:
    choose(hand.window, "lost")
    box = hand.box("lost")
    assert not any(one.ident == "lost" for one in hand.picture.placed)  # type: ignore[attr-defined]
    before = hand.offset("lost")
    hand.drag(box.center().toPoint(), QPoint(20, 12), CTRL)
    after = hand.offset("lost")
    assert (after[0] - before[0], after[1] - before[1]) == (50, 30)


def test_all_of_a_kind_are_chosen_by_key(hand: Hand) -> None:
    hand.press(hand.at("hull_bar", 0.3, 0.8))
    hand.key(Key.Key_A, CTRL | SHIFT)
    hand.key(Key.Key_Delete)
    assert {w["id"] for w in hand.before["widgets"] if w["kind"] == "bar"} == {
        w["id"] for w in hand.before["widgets"]
    } - set(hand.ids())


def test_all_of_a_group_are_chosen_by_key(hand: Hand) -> None:
    hand.press(hand.at("hull_bar", 0.3, 0.8))
    group = hand.widget("hull_bar")["group"]
    hand.key(Key.Key_G, CTRL | ALT)
    hand.key(Key.Key_Delete)
    fellows = {one["id"] for one in hand.before["widgets"] if one.get("group") == group}
    assert len(fellows) > 1
    assert {one["id"] for one in hand.before["widgets"]} - set(hand.ids()) == fellows


def test_what_moves_and_what_is_sized_holds_on_to_lines_and_lets_go(hand: Hand) -> None:
    hand.press(hand.at("depth"))
    box, way = hand.box("depth"), QPoint(359, -90)  # four pixels beside a line
    third: float = hand.picture.picture_rect().width() / 3  # type: ignore[attr-defined]

    def away() -> float:
        """The distance to the nearest line that an edge or the middle could snap to."""
        others = [hand.box(one.ident) for one in hand.picture.placed if one.ident != "depth"]  # type: ignore[attr-defined]
        lines = [x for one in others for x in (one.left(), one.center().x(), one.right())] + [third, 2 * third]
        now = hand.box("depth")
        return min(abs(x - line) for x in (now.left(), now.center().x(), now.right()) for line in lines)

    hand.drag(box.center().toPoint(), way, ALT)
    assert hand.box("depth").left() == pytest.approx(box.left() + way.x(), abs=0.5)
    assert away() > 3
    hand.key(Key.Key_Z, CTRL)
    hand.drag(box.center().toPoint(), way)
    assert away() < 0.25
    assert abs(hand.box("depth").left() - box.left() - way.x()) < 8.5
    hand.key(Key.Key_Z, CTRL)
    hand.drag(box.bottomRight().toPoint(), QPointF(third - box.right() + 4, 30).toPoint())
    assert hand.box("depth").right() == pytest.approx(third, abs=0.5)
    assert hand.box("depth").topLeft() == box.topLeft()
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


# -- places -------------------------------------------------------------------------------------------------------------


def test_six_are_lined_up_and_spread_in_two_gestures(hand: Hand) -> None:
    six = ("hull_bar", "spare_cells", "tide", "crew_table", "depth", "scrap")
    hand.press(hand.at("hull_bar", 0.3, 0.8))
    for ident in six[1:]:
        hand.press(hand.at(ident), SHIFT)
    order = sorted(six, key=lambda ident: hand.box(ident).top())
    ends = hand.box(order[0]).top(), hand.box(order[-1]).bottom()
    hand.key(Key.Key_Left, CTRL | SHIFT)
    hand.key(Key.Key_V, CTRL | SHIFT)
    boxes = [hand.box(ident) for ident in order]
    assert {round(box.left(), 1) for box in boxes} == {round(boxes[0].left(), 1)}
    gaps = [low.top() - high.bottom() for high, low in pairwise(boxes)]
    assert gaps == pytest.approx([gaps[0]] * 5, abs=0.02)
    assert (boxes[0].top(), boxes[-1].bottom()) == pytest.approx(ends)
    hand.key(Key.Key_Z, CTRL)
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


def test_sixteen_copies_lie_in_a_grid_in_three_gestures(hand: Hand) -> None:
    hand.press(hand.at("scrap"))
    hand.key(Key.Key_P, CTRL)
    edit = hand.window.desk.place_edit
    hand.type_into(edit.copies, "4 x 4")
    grid = [one for one in hand.ids() if one.startswith("scrap")]
    boxes = [hand.box(ident) for ident in grid]
    assert len({round(box.left(), 1) for box in boxes}) == len({round(box.top(), 1) for box in boxes}) == 4
    assert len({(round(box.left(), 1), round(box.top(), 1)) for box in boxes}) == 16
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before
    hand.press(hand.at("scrap"))
    hand.key(Key.Key_P, CTRL)
    for wrong in ("900 x 900", "1 × 1", "many"):
        hand.type_into(edit.copies, wrong)
        assert "not a valid grid of copies" in hand.window.message.text()
    assert hand.file() == hand.before


def test_an_exact_place_is_typed_at_the_tag(hand: Hand) -> None:
    hand.press(hand.at("scrap"))
    tag = hand.picture.tag_rect  # type: ignore[attr-defined]
    hand.press(tag.center().toPoint())
    edit = hand.window.desk.place_edit
    assert edit.isVisible()
    hand.type_into(edit.numbers["x"], "-120.5")
    hand.type_into(edit.numbers["high"], "77")
    assert hand.offset("scrap")[0] == -120.5
    assert hand.widget("scrap")["place"]["size"][1] == 77
    box = hand.box("scrap")
    QTest.mouseClick(edit.anchor, LEFT, PLAIN, edit.anchor.dot("top-left").toPoint())
    QTest.keyClick(edit.pivot, Key.Key_Up)
    assert hand.widget("scrap")["place"].get("anchor", "top-left") == "top-left"
    assert hand.widget("scrap")["place"]["pivot"] == "right"
    assert (hand.box("scrap").topLeft() - box.topLeft()).manhattanLength() < 0.1
    hand.type_into(edit.numbers["x"], "1e9")
    assert hand.offset("scrap")[0] == 100_000
    hand.type_into(edit.numbers["x"], "wide")
    assert "not a number of pixels" in hand.window.message.text()
    assert hand.offset("scrap")[0] == 100_000
    hand.window.activateWindow()
    QTest.keyClick(edit, Key.Key_Escape)
    assert not edit.isVisible()
    assert hand.window.focusWidget() is hand.picture
    for _ in range(5):
        hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


def test_a_widget_is_called_otherwise_in_place(hand: Hand) -> None:
    hand.press(hand.at("scrap"))
    hand.key(Key.Key_P, CTRL)
    edit = hand.window.desk.place_edit
    hand.type_into(edit.name, "sold scrap")
    assert "sold_scrap" in hand.ids()
    hand.type_into(edit.name, "tide")
    assert "already" in hand.window.message.text()
    hand.paste_into(edit.name, "x" * 10_000)
    assert "not a valid widget name" in hand.window.message.text()
    assert "sold_scrap" in hand.ids()
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


def test_a_title_is_typed_in_place_and_the_id_follows_by_a_press(hand: Hand) -> None:
    lanes = hand.window.desk.lanes
    hand.press(hand.at("scrap"))
    head = lanes.lane_rect("scrap", widget=True)
    QTest.mouseDClick(lanes.viewport(), LEFT, PLAIN, QPoint(120, head.y() + 10))
    edit = hand.window.desk.place_edit
    assert edit.isVisible()
    assert edit.title.hasSelectedText()
    hand.type_into(edit.title, "  Scrap sold,  in crowns ")
    assert hand.widget("scrap")["title"] == "Scrap sold, in crowns"
    QTest.mouseClick(edit.follows, LEFT)
    assert hand.widget("scrap_sold_in_crowns")["title"] == "Scrap sold, in crowns"
    assert edit.name.text() == "scrap_sold_in_crowns"
    hand.type_into(edit.title, "Scrap sold in crowns")
    assert "title" not in hand.widget("scrap_sold_in_crowns"), "the id says it"
    hand.paste_into(edit.title, "x" * 10_000)
    assert "longer than any lane" in hand.window.message.text()
    hand.key(Key.Key_Z, CTRL)
    assert hand.widget("scrap_sold_in_crowns")["title"] == "Scrap sold, in crowns"


def test_what_a_place_follows_is_typed_there_and_its_frame_goes_along(hand: Hand) -> None:
    hand.press(hand.at("scrap"))
    hand.key(Key.Key_P, CTRL)
    edit, before = hand.window.desk.place_edit, hand.box("scrap")
    hand.type_into(edit.rules["x"], "400 + depth")
    hand.type_into(edit.rules["y"], "300")
    assert hand.widget("scrap")["place"]["follow"] == {"x": "400 + depth", "y": "300", "hold": True}
    QTest.keyClick(edit.arrow, Key.Key_Down)
    QApplication.processEvents()
    assert hand.widget("scrap")["place"]["follow"]["arrow"] is True
    followed = hand.box("scrap")
    assert (followed.topLeft() - before.topLeft()).manhattanLength() > 50
    assert followed.contains(QPointF(hand.at("scrap")))
    assert "from the followed position" in hand.picture._place_text(hand.window.editor.now.widget.widget, True)  # type: ignore[attr-defined]
    hand.type_into(edit.rules["x"], "400 + depht")
    assert "depth" in hand.window.message.text(), "did you mean"
    hand.type_into(edit.rules["x"], "")
    assert "follow" not in hand.widget("scrap")["place"]
    assert hand.box("scrap") == before


# -- while editing -------------------------------------------------------------------------------------------------------


def test_what_is_hidden_while_editing_leaves_the_picture_and_no_file(hand: Hand) -> None:
    at = hand.at("scrap")
    hand.press(at)
    hand.key(Key.Key_H, CTRL | ALT)
    assert "scrap" not in {one.ident for one in hand.picture.placed}  # type: ignore[attr-defined]
    assert "hidden in the editor only" in hand.window.message.text()
    hand.drag(at, QPoint(-30, 0), ALT)
    assert hand.offset("scrap") != hand.before["widgets"][12]["place"]["offset"], "what hides is still in hand"
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before
    note = hand.picture._away_rect  # type: ignore[attr-defined]
    hand.press(note.center().toPoint())
    assert "scrap" in {one.ident for one in hand.picture.placed}  # type: ignore[attr-defined]


def test_what_is_locked_stays_and_is_looked_through(hand: Hand) -> None:
    lanes, at = hand.window.desk.lanes, hand.at("scrap")
    hand.press(at)
    head = lanes.lane_rect("scrap", widget=True)
    QTest.mouseClick(lanes.viewport(), LEFT, PLAIN, QPoint(8, head.center().y() + 8))
    hand.drag(at, QPoint(-30, 0), ALT)
    assert hand.window.editor.now.selection.widget != "scrap", "the picture does not pick it"
    QTest.mouseClick(lanes.viewport(), LEFT, PLAIN, QPoint(120, lanes.lane_rect("scrap", widget=True).y() + 10))
    hand.key(Key.Key_Left, ALT)
    assert "locked" in hand.window.message.text()
    assert hand.file() == hand.before
    hand.key(Key.Key_A, CTRL)
    assert "scrap" not in hand.window.editor.now.selection.widgets
    hand.key(Key.Key_U, CTRL | ALT)
    hand.press(at)
    hand.key(Key.Key_Left, ALT)
    assert hand.offset("scrap")[0] == hand.before["widgets"][12]["place"]["offset"][0] - 1


def test_how_a_project_is_looked_at_comes_back_with_it(hand: Hand) -> None:
    hand.press(hand.at("scrap"))
    hand.key(Key.Key_H, CTRL | ALT)
    hand.window.desk.footer.order.setFocus()
    QTest.keyClick(hand.window.desk.footer.order, Key.Key_Down)
    QApplication.processEvents()
    path, names = hand.folder, [lane.name for lane in hand.window.desk.lanes.lanes]
    hand.window.workspace.files.open(path)
    QApplication.processEvents()
    assert "scrap" not in {one.ident for one in hand.picture.placed}  # type: ignore[attr-defined]
    assert hand.window.desk.footer.order.currentText() == "by kind"
    assert [lane.name for lane in hand.window.desk.lanes.lanes] == names
    assert hand.file() == hand.before


# -- lanes ---------------------------------------------------------------------------------------------------------------


def heads(hand: Hand) -> list[str]:
    return [lane.name for lane in hand.window.desk.lanes.lanes]


def test_what_is_chosen_and_what_feeds_it_stays_in_sight(hand: Hand) -> None:
    lanes = hand.window.desk.lanes
    hand.press(hand.at("hull_bar", 0.5, 0.9))
    lanes.verticalScrollBar().setValue(lanes.verticalScrollBar().maximum())
    QApplication.processEvents()
    first, second = lanes.lane_rect("hull_bar", widget=True), lanes.lane_rect("hull")
    assert first.y() == 0
    assert second.y() == first.height()
    QTest.mouseClick(lanes.viewport(), LEFT, PLAIN, QPoint(120, second.y() + 30))
    assert hand.window.editor.now.selection.variable == "hull", "they are pressed where they are seen"


def test_a_lane_is_put_elsewhere_by_hand_and_by_keys(hand: Hand) -> None:
    lanes = hand.window.desk.lanes
    hand.press(hand.at("hull_bar", 0.5, 0.9))
    lanes.verticalScrollBar().setValue(0)
    names = heads(hand)
    start = lanes.lane_rect(names[1]).center().y()
    QTest.mousePress(lanes.viewport(), LEFT, PLAIN, QPoint(100, start))
    for y in (start - 10, 20, 2):
        at = QPointF(100, y)
        move = QMouseEvent(
            QEvent.Type.MouseMove, at, QPointF(lanes.viewport().mapToGlobal(at.toPoint())), Qt.MouseButton.NoButton,
            LEFT, PLAIN,
        )  # fmt: skip
        QApplication.sendEvent(lanes.viewport(), move)
    QTest.mouseRelease(lanes.viewport(), LEFT, PLAIN, QPoint(100, 2))
    QApplication.processEvents()
    assert heads(hand)[:2] == [names[1], names[0]]
    assert hand.window.desk.footer.order.currentText() == "by hand"
    lanes.setFocus()
    QTest.keyClick(lanes, Key.Key_Down, ALT)
    assert heads(hand)[0] == names[0]
    assert hand.file() == hand.before


def test_finding_keeps_the_lane_that_is_edited(hand: Hand) -> None:
    lanes = hand.window.desk.lanes
    lanes.setFocus()
    hand.press(hand.at("hull_bar", 0.5, 0.9))
    QTest.mouseClick(lanes.viewport(), LEFT, PLAIN, QPoint(100, lanes.lane_rect("hull").y() + 8))
    hand.key(Key.Key_E, CTRL)
    QTest.keyClicks(hand.window.desk.footer.finder, "scrap")
    QApplication.processEvents()
    rect = lanes.lane_rect("hull")
    assert rect is not None
    assert lanes.form.geometry().y() == rect.y()
    assert lanes.form.isVisible()
    assert "air" not in heads(hand)


# -- by Tab ---------------------------------------------------------------------------------------------------------------


def test_tab_stands_on_each_limit_and_each_cell_and_the_keys_act_there(hand: Hand) -> None:
    window, editor = hand.window, hand.window.editor
    window.activateWindow()
    hand.press(hand.at("hull_bar", 0.5, 0.9))
    bands, cells = window.desk.card.bands, window.desk.card.ladder
    bands.setFocus(Qt.FocusReason.TabFocusReason)
    QTest.keyClick(bands, Key.Key_Right)
    assert [band["below"] for band in hand.widget("hull_bar")["bands"]] == ["11%", "25%"]
    QTest.keyClick(bands, Key.Key_Tab)
    QTest.keyClick(bands, Key.Key_Left, SHIFT)
    assert [band["below"] for band in hand.widget("hull_bar")["bands"]] == ["11%", "15%"]
    assert editor.now.frame == 0, "the arrows moved no playhead"
    while not cells.samples or cells.busy:
        QTest.qWait(10)
    QTest.keyClick(bands, Key.Key_Tab)
    assert window.focusWidget() is cells
    count = len(cells.samples)
    for _ in range(count - 1):
        QTest.keyClick(cells, Key.Key_Tab)
    QTest.keyClick(cells, Key.Key_Backtab)
    assert window.focusWidget() is cells
    QTest.keyClick(cells, Key.Key_Return)
    assert editor.now.seconds == pytest.approx(cells.samples[count - 2].there.first, abs=0.02)
    QTest.keyClick(cells, Key.Key_Tab)
    QTest.keyClick(cells, Key.Key_Tab)
    assert window.focusWidget() is not cells


def test_signs_are_commands_where_the_focus_is_on_time_alone(hand: Hand) -> None:
    editor, order = hand.window.editor, hand.window.desk.footer.order
    hand.window.activateWindow()
    hand.picture.setFocus()
    hand.key(Key.Key_BracketRight)
    there = editor.now.frame
    assert there > 0
    order.setFocus()
    QTest.keyClick(order, Key.Key_BracketRight)
    assert editor.now.frame == there
    hand.window.desk.lanes.setFocus()
    QTest.keyClick(hand.window.desk.lanes, Key.Key_BracketRight)
    assert editor.now.frame > there


# -- order, copies, groups, kinds ---------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("key", "place"), [(Key.Key_Home, -1), (Key.Key_End, 0), (Key.Key_PageUp, 13), (Key.Key_PageDown, 11)]
)
def test_what_lies_over_what(hand: Hand, key: Qt.Key, place: int) -> None:
    assert hand.ids()[12] == "scrap"
    hand.press(hand.at("scrap"))
    hand.key(key, CTRL)
    assert hand.ids()[place] == "scrap"
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


def test_copies_go_over_the_clipboard(hand: Hand) -> None:
    hand.press(hand.at("scrap"))
    hand.press(hand.at("tide"), SHIFT)
    hand.key(Key.Key_C, CTRL)
    hand.key(Key.Key_V, CTRL)
    hand.key(Key.Key_V, CTRL)
    assert hand.ids()[-4:] == ["tide_2", "scrap_2", "tide_3", "scrap_3"]
    places = [tuple(hand.offset(ident)) for ident in ("scrap", "scrap_2", "scrap_3")]
    assert len(set(places)) == 3  # beside one another
    hand.key(Key.Key_X, CTRL)
    assert hand.ids()[-2:] == ["tide_2", "scrap_2"]
    for _ in range(3):
        hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


@pytest.mark.parametrize("text", ["", "hello", "<svg/>", '{"widgets": 3}'])
def test_other_text_on_the_clipboard_is_reported(hand: Hand, text: str) -> None:
    QGuiApplication.clipboard().setText(text)
    hand.key(Key.Key_V, CTRL)
    assert "no widgets on the clipboard" in hand.window.message.text()
    assert hand.file() == hand.before


def test_into_a_group_and_out(hand: Hand) -> None:
    hand.press(hand.at("scrap"))
    hand.press(hand.at("tide"), SHIFT)
    inside = hand.widget("scrap").get("group", "")
    hand.key(Key.Key_G, CTRL)
    made = hand.widget("scrap")["group"]
    assert made == hand.widget("tide")["group"] != inside
    hand.key(Key.Key_G, CTRL | SHIFT)
    assert hand.widget("scrap").get("group", "") == inside
    hand.key(Key.Key_Z, CTRL)
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before


def test_another_kind_from_the_menu_under_the_right_button(hand: Hand) -> None:
    at = hand.at("hull_bar", 0.3, 0.8)
    there = hand.picture.mapToGlobal(at)
    QApplication.sendEvent(hand.picture, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, there))
    menu = next(one for one in hand.window.findChildren(QMenu) if one.isVisible())
    actions = {a.text().split("\t")[0]: a for one in (menu, *menu.findChildren(QMenu)) for a in one.actions()}
    assert "Distribute horizontally" not in actions  # there is only one
    actions["Make it a ring"].trigger()
    menu.close()
    assert hand.widget("hull_bar")["kind"] == "ring"
    assert hand.widget("hull_bar")["bands"] == next(w["bands"] for w in hand.before["widgets"] if w["id"] == "hull_bar")


# -- commands -----------------------------------------------------------------------------------------------------------


def test_every_command_is_listed_with_its_keys(hand: Hand) -> None:
    QTest.keyClicks(hand.picture, "?")
    finder = hand.window.popups.finder
    assert finder.isVisible()
    given = [finder.list.item(at).text() for at in range(finder.list.count())]
    assert len(given) == len(hand.window.actions_table)
    assert any(line.startswith("Save ") and line.endswith("Ctrl+S") for line in given)
    QTest.keyClick(finder.field, Key.Key_Escape)
    assert not finder.isVisible()


def test_a_command_is_found_by_typing_and_done(hand: Hand) -> None:
    hand.press(hand.at("scrap"))
    hand.command("front")
    assert hand.ids()[-1] == "scrap"
    hand.key(Key.Key_K, CTRL)
    finder = hand.window.popups.finder
    QTest.keyClicks(finder.field, "zzz")
    assert finder.list.count() == 0
    QTest.keyClick(finder.field, Key.Key_Return)  # nothing happens
    assert finder.isVisible()
    hand.type_into(finder.field, "order")
    QTest.keyClick(finder.field, Key.Key_Escape)


def test_the_arrows_walk_over_what_cannot_be_done_now(hand: Hand) -> None:
    hand.key(Key.Key_Escape)
    hand.key(Key.Key_K, CTRL)
    finder = hand.window.popups.finder
    seen = []
    for _ in range(finder.list.count()):
        seen.append(finder.list.currentItem().text().split("  ")[0])
        QTest.keyClick(finder.field, Key.Key_Down)
    assert "Duplicate" not in seen
    assert "Undo" not in seen
    assert "Find a lane" in seen


def test_letters_drive_only_where_nothing_is_written_or_sought(hand: Hand) -> None:
    lanes = hand.window.desk.lanes
    hand.window.activateWindow()
    lanes.setFocus()
    QTest.keyClicks(lanes, "red")
    assert hand.window.editor.now.live is None
    hand.picture.setFocus()
    QTest.keyClicks(hand.picture, "d")
    assert hand.window.editor.now.live is not None
    assert "D stops" in hand.window.message.text()
    QTest.keyClicks(hand.picture, "d")


def test_new_widgets_find_room_beside_what_is_there(hand: Hand) -> None:
    for kind in ("label", "label", "bar", "bar"):
        hand.window.desk.add_widget(kind)
    boxes = [hand.box(ident) for ident in hand.ids()]
    for number, made in enumerate(boxes[-4:]):
        assert not any(made.intersects(other) for other in boxes[-4:][number + 1 :])
        drawn = [
            other
            for ident, other in zip(hand.ids()[:-4], boxes, strict=False)
            if ident in ("hull_bar", "tide", "scrap")
        ]
        assert not any(made.intersects(other) for other in drawn)


def test_back_to_what_is_saved_can_be_undone(hand: Hand) -> None:
    hand.press(hand.at("scrap"))
    hand.key(Key.Key_Delete)
    hand.press(hand.at("tide"))
    hand.key(Key.Key_Delete)
    hand.command("revert to saved")
    assert "Reverted to saved" in hand.window.message.text()
    assert hand.at("scrap")
    hand.key(Key.Key_Z, CTRL)
    assert {one["id"] for one in hand.before["widgets"]} - set(hand.ids()) == {"scrap", "tide"}


@pytest.mark.parametrize(("look", "given"), [("light", "light"), ("dark", "dark"), ("as the desktop", "desktop")])
def test_a_look_is_chosen_for_the_next_start(hand: Hand, look: str, given: str) -> None:
    hand.command(f"theme: {look}")
    assert f"uses the {given} theme" in hand.window.message.text()
    assert QSettings().value("window/look") == look


# -- closer -------------------------------------------------------------------------------------------------------------


def turn(hand: Hand, at: QPoint, turns: int, keys: Qt.KeyboardModifier) -> None:
    """Turn the wheel over a point of the picture."""
    for _ in range(abs(turns)):
        way, there = QPoint(0, 120 if turns > 0 else -120), QPointF(hand.picture.mapToGlobal(at))
        event = QWheelEvent(
            QPointF(at), there, QPoint(), way, Qt.MouseButton.NoButton, keys, Qt.ScrollPhase.NoScrollPhase, False
        )
        QApplication.sendEvent(hand.picture, event)
    QApplication.processEvents()


def test_the_wheel_goes_closer_about_the_pointer_to_the_pixel_and_back(hand: Hand) -> None:
    hand.press(hand.at("scrap"))
    middle = hand.at("scrap")
    whole = hand.box("scrap")
    turn(hand, middle, 3, CTRL)
    assert hand.box("scrap").width() == pytest.approx(whole.width() * 1.25**3)
    assert (hand.box("scrap").center() - middle).manhattanLength() < 3
    turn(hand, middle, 40, CTRL)
    assert hand.box("scrap").width() == pytest.approx(320 * 16)
    image = hand.picture.grab().toImage()
    at = hand.picture.picture_rect().topLeft()  # type: ignore[attr-defined]
    for x, y in ((100, 100), (333, 222), (600, 301)):  # inside of one pixel of the screen all is alike
        corner = QPoint(int(at.x() + (x - at.x()) // 16 * 16), int(at.y() + (y - at.y()) // 16 * 16))
        seen = {image.pixel(corner + QPoint(dx, dy)) for dx in range(2, 15) for dy in range(2, 15)}
        assert len(seen) == 1
    hand.key(Key.Key_0, CTRL)
    assert hand.box("scrap") == whole


def test_closer_by_key_and_carried_with_the_middle_button(hand: Hand) -> None:
    hand.press(hand.at("scrap"))
    hand.key(Key.Key_9, CTRL)
    assert hand.box("scrap").width() == 320
    before = hand.box("scrap")
    at = QPoint(300, 200)
    QTest.mousePress(hand.picture, Qt.MouseButton.MiddleButton, PLAIN, at)
    move = QPointF(at) + QPointF(60, 40)
    event = QMouseEvent(QEvent.Type.MouseMove, move, move, Qt.MouseButton.NoButton, Qt.MouseButton.MiddleButton, PLAIN)
    QApplication.sendEvent(hand.picture, event)
    QTest.mouseRelease(hand.picture, Qt.MouseButton.MiddleButton, PLAIN, move.toPoint())
    assert hand.box("scrap").topLeft() - before.topLeft() == QPointF(60, 40)
    turn(hand, at, -1, PLAIN)
    assert hand.box("scrap").top() == before.top() + 40 - 60
    offset = hand.offset("scrap")
    hand.drag(hand.box("scrap").center().toPoint(), QPoint(-30, -10), CTRL)
    assert hand.offset("scrap") == (offset[0] - 30, offset[1] - 10)  # a pixel of the screen a pixel of the view
    hand.key(Key.Key_Minus, CTRL)
    assert hand.box("scrap").width() == pytest.approx(320 / 1.25**2)
    hand.key(Key.Key_0, CTRL)
    turn(hand, at, -5, CTRL)  # never smaller than fits
    assert hand.box("scrap").width() == pytest.approx(before.width() * 0.4)


# -- the card and the lanes ---------------------------------------------------------------------------------------------


def test_the_card_of_several_does_things_to_all(hand: Hand) -> None:
    hand.press(hand.at("scrap"))
    hand.press(hand.at("tide"), SHIFT)
    pressed(hand.window, "right")()
    boxes = [hand.box(ident) for ident in ("scrap", "tide")]
    assert boxes[0].right() == pytest.approx(boxes[1].right(), abs=0.02)
    pressed(hand.window, "Tide")()
    hand.key(Key.Key_Delete)
    assert "tide" not in hand.ids()
    assert "scrap" in hand.ids()


def test_more_lanes_are_chosen_with_shift(hand: Hand) -> None:
    lanes = hand.window.desk.lanes
    hand.press(hand.at("scrap"))
    lanes.setFocus()
    QTest.keyClick(lanes, Key.Key_Down, SHIFT)
    QTest.keyClick(lanes, Key.Key_Down, SHIFT)
    QTest.keyClick(lanes, Key.Key_Up, SHIFT)
    hand.key(Key.Key_Delete)
    assert len({w["id"] for w in hand.before["widgets"]} - set(hand.ids())) == 2


def pressed(window: Any, text: str) -> Callable[[], object]:
    """What a word of the card does when it is pressed."""
    link = next(one for one in window.desk.card.widget().findChildren(QWidget) if one.accessibleName() == text)
    return lambda: QTest.mouseClick(link, LEFT, PLAIN, link.rect().center())


def test_undo_leads_through_all_of_it_back_to_the_first_state_byte_for_byte(hand: Hand) -> None:
    first, steps = hand.folder.read_bytes(), 0
    for words in ("align top edges", "duplicate", "in a square grid", "group", "move to the back", "make it a bar",
                  "same width as the first", "ungroup", "remove"):  # fmt: skip
        if words == "align top edges":
            hand.press(hand.at("scrap"))
            hand.press(hand.at("tide"), SHIFT)
        before = hand.folder.read_bytes()
        hand.command(words)
        hand.key(Key.Key_S, CTRL)
        assert hand.folder.read_bytes() != before, words
        steps += 1
    for _ in range(steps):
        hand.key(Key.Key_Z, CTRL)
    hand.key(Key.Key_S, CTRL)
    assert hand.folder.read_bytes() == first


@pytest.mark.parametrize(
    "file", [*sorted(Path(__file__).parent.glob("test_hands*.py")), Path(__file__).parent / "test_every_field.py"],
    ids=lambda file: file.stem,
)  # fmt: skip
def test_gestures_import_nothing_of_the_program(file: Path) -> None:
    """Only the published schema: it says which fields there are, and no gesture is made with it."""
    for one in (file, file.parents[1] / "gestures.py"):
        imported = [line for line in one.read_text("utf-8").splitlines() if line.startswith(("import ", "from "))]
        assert imported
        assert {line for line in imported if "avrin" in line} <= {"from avrin.kinds.schema import project_schema"}


def test_what_is_dragged_takes_the_anchor_it_is_near_and_ctrl_keeps_it(hand: Hand) -> None:
    hand.press(hand.at("depth"))
    box = hand.box("depth")
    to = hand.picture.picture_rect().topRight() - QPointF(150, -40)  # type: ignore[attr-defined]
    hand.drag(box.center().toPoint(), (to - box.center()).toPoint(), CTRL)
    assert hand.widget("depth")["place"]["anchor"] == "bottom-left"
    hand.key(Key.Key_Z, CTRL)
    hand.drag(box.center().toPoint(), (to - box.center()).toPoint(), ALT)
    place = hand.widget("depth")["place"]
    assert (place["anchor"], place["pivot"]) == ("top-right", "top-right")
    assert hand.box("depth").center().x() == pytest.approx(to.x(), abs=1)
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before, "the move and its anchor are one step"
