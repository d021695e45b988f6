"""Where things are put that the pictures of the main views do not show: worked by hand, and as laws."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QAccessible
from PySide6.QtTest import QTest

from avrin.app.bind_desk.lanes.pinning import rounded
from avrin.app.bind_desk.ruler import step_between
from avrin.app.findings_desk.moment import moment_of
from avrin.app.main import application
from avrin.app.painting.marks import CORNERS, beside, handles, reach
from avrin.app.window.window import Window
from avrin.binding.tracks import Tracks
from avrin.editor.edits import undo
from avrin.editor.selecting import select_variable
from avrin.findings.finding import Finding
from avrin.project.project import Place
from avrin.trace.frames import Event
from window_fixtures import carried, one_window, qapp  # noqa: F401

AREA = QRectF(0, 0, 800, 450)


@pytest.mark.parametrize(
    ("box", "width", "left", "top"),
    [
        ((100, 100, 200, 40), 80, 309, 120),  # right of it, level with its foot
        ((100, 0, 200, 10), 80, 309, 4),  # below the picture's upper edge
        ((100, 440, 200, 40), 80, 309, 426),  # above its lower one
        ((600, 100, 105, 40), 80, 714, 120),  # the last place at the right
        ((600, 100, 106, 40), 80, 511, 120),  # no room any more: left of it
        ((0, 100, 790, 40), 80, 4, 120),  # no room at either side: at the picture's edge
    ],
)
def test_a_tag_lies_beside_its_widget_and_within_the_picture(
    box: tuple[int, int, int, int], width: int, left: int, top: int
) -> None:
    assert beside(QRectF(*box), width, AREA) == QRectF(left, top, width, 20)


def test_handles_lie_around_the_corners() -> None:
    found = handles(QRectF(10, 20, 100, 40))
    assert [h.center() for h in found] == [QPointF(10 + 100 * x, 20 + 40 * y) for x, y in CORNERS]
    assert {(h.width(), h.height()) for h in found} == {(7, 7)}


def test_what_is_repainted_holds_the_frame_the_anchors_line_and_the_tag() -> None:
    place = Place(anchor="bottom-right", offset=(-200, -100), size=(100, 40))
    whole = reach(place, QRectF(500, 310, 100, 40), QRectF(20, 10, 760, 430))
    assert whole.contains(QRectF(500, 310, 100, 40).adjusted(-24, -24, 24, 24).toRect())
    assert whole.contains(780, 440)  # where it is anchored
    assert (whole.x(), whole.y(), whole.right(), whole.bottom()) == (220, 286, 1059, 463)


@pytest.mark.parametrize(
    ("per_pixel", "step"),
    [(0.0001, 0.01), (0.00012, 0.02), (0.01, 1), (0.1, 10), (0.2, 30), (1, 120), (2.5, 300), (40, 3600), (90, 3600)],
)
def test_labels_of_time_stand_at_what_people_count_in(per_pixel: float, step: float) -> None:
    assert step_between(per_pixel) == step


@given(st.floats(1e-4, 40))
def test_labels_of_time_have_room_and_no_more_than_they_need(per_pixel: float) -> None:
    step = step_between(per_pixel)
    assert step / per_pixel >= 84
    assert step <= 0.01 or step / per_pixel <= 84 * 3  # the steps are at most three times apart


@pytest.mark.parametrize(
    ("value", "low", "high", "expected"),
    [
        (123.456, 0, 1000, 123), (123.456, 0, 999, 123.5), (12.3456, -25, 25, 12.3), (12.3456, 0, 49, 12.35),
        (1.23456, 0, 5, 1.23), (1.23456, 0, 4.9, 1.235), (-0.04, 0, 100, 0.0),
    ],
)  # fmt: skip
def test_a_dragged_value_has_digits_that_suit_its_range(value: float, low: float, high: float, expected: float) -> None:
    found = rounded(value, low, high)
    assert (found, str(found)) == (expected, str(float(expected)))


def test_the_choice_of_kinds_stays_on_the_picture(carried: Window) -> None:
    desk, editor = carried.desk, carried.editor
    area = desk.hud.picture_rect()
    for x, y in ((0.3, 0.3), (0.98, 0.3), (0.02, 0.3), (0.5, 0.97)):
        before = editor.now.project
        desk.drag.put("depth", (1920 * x, 1080 * y))
        application().processEvents()
        assert desk.chooser.isVisible()
        on_picture = QRectF(desk.chooser.geometry()).translated(-QPointF(desk.hud.mapTo(desk, area.topLeft())))
        assert on_picture.left() >= 3
        assert on_picture.right() <= area.width() - 3
        assert on_picture.top() >= 0
        assert on_picture.bottom() <= area.height()
        chosen = editor.now.widget
        assert chosen is not None
        box = next(item.rect for item in desk.hud.placed if item.ident == chosen.widget.id)
        assert not on_picture.intersects(desk.hud.to_view(box).translated(-area.topLeft()))
        editor.do(undo)
        assert editor.now.project == before


def test_of_two_events_side_by_side_the_nearer_is_reported(carried: Window) -> None:
    lanes, editor = carried.desk.lanes, carried.editor
    step = 5 * lanes.scale.per_pixel  # five pixels apart
    two = (Event(60.0, "hauled", {"who": "one"}), Event(60.0 + step, "hauled", {"who": "two"}))
    whole, tracks = editor.now.trace, editor.now.tracks
    other = replace(whole, events=two)
    editor.now = editor.now.replaced(trace=other, tracks=Tracks(editor.now.bound, other))
    try:
        x = lanes.scale.x(60.0)
        told = [lanes._bodies.event_at("hauled", x + off)[-3:] for off in (-6, 0, 2, 3, 5, 11)]
        assert told == ["one", "one", "one", "two", "two", "two"]
        assert lanes._bodies.event_at("hauled", x - 7) == lanes._bodies.event_at("hauled", x + 12) == ""
    finally:
        editor.now = editor.now.replaced(trace=whole, tracks=tracks)


def test_a_finding_about_frames_a_shorter_trace_lacks_is_shown_at_its_end(carried: Window) -> None:
    tracks = carried.editor.now.tracks
    last = len(tracks.trace) - 1
    finding = Finding(widget="hull_bar", short="", why="", advice="")
    for start, shown in ((0, 0), (last, last), (last + 1, last), (last + 900, last)):
        assert moment_of(replace(finding, start=start, end=start + 1), tracks) == shown
    assert tracks.value(tracks.bound.widgets["hull_bar"].columns["visible"], moment_of(finding, tracks)) is True
    assert moment_of(replace(finding, widget="nobody"), tracks) == 0


def test_what_is_chosen_in_a_list_has_the_focus_there_too(carried: Window) -> None:
    lanes = carried.desk.lanes
    told = QAccessible.queryAccessibleInterface(lanes)
    carried.activateWindow()
    lanes.setFocus()
    carried.editor.do(select_variable, "depth")
    focus = told.focusChild()
    assert focus is not None
    assert focus.text(QAccessible.Text.Name) == "depth"
    carried.desk.hud.setFocus()
    other = told.focusChild()
    assert other is None or other.text(QAccessible.Text.Name) != "depth"


def test_escape_and_enter_close_what_popped_up(carried: Window) -> None:
    popup = carried.desk.action_edit
    for key in (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter):
        carried.desk.edit_action(carried.editor.now.project.actions[0].label)
        assert popup.isVisible()
        QTest.keyClick(popup.fields["label"], key)  # leaves the field
        assert popup.isVisible()
        QTest.keyClick(popup, Qt.Key.Key_A)
        assert popup.isVisible()
        QTest.keyClick(popup, key)
        assert not popup.isVisible()
