"""An action named and changed by keys in its form, which stays where it is; and what is written counts when it is put away."""

from __future__ import annotations

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from avrin.app.bind_desk.popups.action_edit import ActionEdit
from avrin.app.controls.link import Link
from avrin.app.controls.utf16 import characters_before, units_before
from avrin.app.window.window import Window
from avrin.editor.by_hand import start_drive
from avrin.editor.edits import edit
from avrin.editor.selecting import select_widget
from avrin.project.project import Action, Assignment
from gestures import CTRL, LEFT, Hand
from window_fixtures import qapp, window  # noqa: F401

Key = Qt.Key


@pytest.fixture
def form(window: Window) -> ActionEdit:
    """A new action's form, open."""
    window.desk.edit_action("")
    form = window.desk.action_edit
    assert form.line is not None
    first = next(one.name for one in window.editor.now.project.variables if one.type in ("int", "float"))
    form.line.setText(f"Action 1 {form.line.text().split()[0]} {first} -1")
    QTest.keyClick(form.line, Key.Key_Return)
    window.desk.edit_action("Action 1")
    QApplication.processEvents()
    return form


def typed(form: ActionEdit, field: str, text: str) -> None:
    form.fields[field].setFocus()
    form.fields[field].selectAll()
    QTest.keyClicks(form.fields[field], text)


@pytest.mark.parametrize("key", [Key.Key_Return, Key.Key_Tab])
def test_named_by_keys_it_stays_as_it_is_and_takes_more(form: ActionEdit, key: Key) -> None:
    editor, height = form.editor, form.height()
    typed(form, "label", "Burst")
    QTest.keyClick(form.fields["label"], key)
    QApplication.processEvents()
    assert editor.now.project.actions[-1].label == "Burst"
    assert form.isVisible()
    assert form.height() == height
    assert all(field.isVisible() for field in form.fields.values())
    typed(form, "key", "J")
    QTest.keyClick(form.fields["key"], Key.Key_Return)
    assert (editor.now.project.actions[-1].label, editor.now.project.actions[-1].key) == ("Burst", "J")
    QTest.keyClick(form, Key.Key_Escape)
    assert not form.isVisible()


def test_another_line_is_seen_at_once(form: ActionEdit) -> None:
    height = form.height()
    form._another()
    assert form.height() > height
    assert all(field.isVisible() for field in form.fields.values())


def test_done_takes_what_is_written(form: ActionEdit) -> None:
    typed(form, "label", "Burst")
    done = next(link for link in form.findChildren(Link) if link.text() == "done" and link.isVisible())
    QTest.mouseClick(done, Qt.MouseButton.LeftButton)
    assert form.editor.now.project.actions[-1].label == "Burst"
    assert not form.isVisible()


@pytest.mark.parametrize(
    ("target", "rule"), [("air", "air - 1"), ("leak", "not leak"), ("phase", "phase")]
)  # the same of another number; of another type, what is usual
def test_another_variable_takes_its_rule_along(form: ActionEdit, target: str, rule: str) -> None:
    editor = form.editor
    label = editor.now.project.actions[-1].label
    made = Action(label=label, key="", does=(Assignment(set="hull", to="hull - 1"),))
    editor.do(edit, replace(editor.now.project, actions=(*editor.now.project.actions[:-1], made)), "an action")
    typed(form, "set0", target)
    QTest.keyClick(form.fields["set0"], Key.Key_Return)
    change = editor.now.project.actions[-1].does[0]
    assert (change.set, change.to) == (target, rule)
    assert not editor.now.bound.errors


def test_the_clock_stands_while_one_types(window: Window) -> None:
    window.editor.do(start_drive)
    assert window.editor.now.playing
    window.desk.edit_action("")
    assert not window.editor.now.playing


def test_a_first_screen_that_is_added_stays_beside_the_usual_one(window: Window) -> None:
    editor = window.editor
    editor.do(edit, replace(editor.now.project, screens=()), "no screens")
    window.header._add_screen("handheld", (1280, 800), 0.0)
    assert [(one.name, one.size) for one in editor.now.project.screens] == [
        ("desk", (1920, 1080)),
        ("handheld", (1280, 800)),
    ]
    assert editor.now.view.screen.name == "handheld"


@pytest.mark.parametrize(
    ("text", "characters", "units"), [("abc", 2, 2), ("a🌊b", 1, 1), ("a🌊b", 2, 3), ("🌊🌊", 2, 4), ("", 0, 0)]
)
def test_places_are_counted_in_characters_and_in_units(text: str, characters: int, units: int) -> None:
    assert units_before(text, characters) == units
    assert characters_before(text, units) == characters


def test_behind_an_emoji_marks_and_completion_are_where_they_belong(window: Window) -> None:
    from PySide6.QtGui import QTextCharFormat

    window.editor.do(select_widget, "hull_bar")
    row = next(one for one in window.desk.card.rows if one.edit.template)
    edit = row.edit
    edit.setFocus()
    edit.setPlainText("🌊🌊 {hulk}")
    marked = [
        (one.start, one.start + one.length) for one in edit.document().firstBlock().layout().formats()
        if one.format.underlineStyle() == QTextCharFormat.UnderlineStyle.WaveUnderline
    ]  # fmt: skip
    text = edit.toPlainText()
    first, last = min(a for a, _ in marked), max(b for _, b in marked)
    assert text[characters_before(text, first) : characters_before(text, last)] == "hulk"
    edit.setPlainText("🌊🌊 {hul}")
    cursor = edit.textCursor()
    cursor.setPosition(units_before(edit.toPlainText(), 7))
    edit.setTextCursor(cursor)
    assert edit.caret == 7
    edit.offer(asked=True)
    edit._take(next(entry for entry in edit.completion.entries if entry.text == "hull"))
    assert edit.toPlainText() == "🌊🌊 {hull}"


def test_an_action_is_one_line_that_begins_with_what_is_selected(window: Window) -> None:
    hand = Hand(window)
    desk, edit = window.desk, window.desk.action_edit
    hand.press(hand.at("hull_bar", 0.5, 0.9))
    hand.pressed("+ action")
    assert edit.line is not None
    assert edit.line.text().split()[1:] == ["hull", "-1"], "the selected widget's variable comes first"
    lanes = desk.lanes
    QTest.keyClicks(edit.line, "Gasp ")  # half written
    air = next(one for one in lanes.lanes if one.name == "air")
    lanes.reveal("air")
    rect = lanes.lane_rect(air.name)
    assert rect is not None
    QTest.mouseClick(lanes.viewport(), LEFT, pos=QPoint(100, rect.y() + 10))
    QApplication.processEvents()
    assert edit.line.text().split()[-2:] == ["air", "-1"], "a pressed lane names its variable"
    assert edit.line.text().startswith("Gasp ")
    assert hand.file() == hand.before, "and adds nothing"
    hand.type_into(edit.line, "Gasp G air -20")
    assert edit.isHidden()
    made = hand.file()["actions"][-1]
    assert made == {"label": "Gasp", "key": "G", "does": [{"set": "air", "to": "air - 20"}]}
    hand.pressed("+ action")
    QTest.keyClicks(edit.line, "nonsense ")
    hand.pressed("done")
    assert edit.isHidden()
    hand.pressed("+ action")
    hand.type_into(edit.line, "Gulp G air -5")
    assert "already used by Gasp" in window.message.text()
    assert not edit.isHidden()
    hand.type_into(edit.line, "Gulp air -5")
    assert edit.isHidden()
    hand.key(Key.Key_Z, CTRL)
    hand.key(Key.Key_Z, CTRL)
    assert hand.file() == hand.before
