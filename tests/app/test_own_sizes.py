"""Pictures that bring their own size, as a plate or a widget, and columns that are fitted by a command."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from avrin.app.controls.field import Field
from avrin.app.controls.link import Link
from avrin.editor.edits import edit, set_widget
from avrin.editor.selecting import select_widget
from avrin.editor.viewing import show_over
from avrin.project.project import Place, Widget
from avrin.render.columns import cut_cells
from gestures import CTRL, Hand, Key
from window_fixtures import qapp, window  # noqa: F401


@pytest.fixture
def hand(window: Any) -> Hand:
    return Hand(window)


def picture(folder: Path, name: str) -> Path:
    Image.new("RGB", (64, 36), "#206040").save(folder / name)
    return folder / name


def test_the_first_plate_offers_its_size_as_a_screen(hand: Hand, tmp_path: Path) -> None:
    editor, notices = hand.window.editor, hand.window.notices
    editor.do(edit, replace(editor.now.project, plates=()), "no plates")
    editor.do(show_over, None)
    hand.drop(picture(tmp_path, "first.png"))
    hand.menu("Add as a plate")
    (line,) = [line for line in notices.lines.values() if "first is 64 × 36" in line.accessibleName()]
    add = next(link for link in line.findChildren(Link) if link.text() == "add it as a screen")
    QTest.mouseClick(add, Qt.MouseButton.LeftButton)
    QApplication.processEvents()
    assert not notices.lines
    assert (editor.now.view.screen.name, editor.now.view.screen.size) == ("first", (64, 36))
    hand.drop(picture(tmp_path, "second.png"))
    hand.menu("Add as a plate")
    assert not notices.lines, "only the first one asks"


def test_a_picture_in_place_of_an_icon_brings_its_size(hand: Hand, tmp_path: Path) -> None:
    editor = hand.window.editor
    seal = Widget(id="seal", kind="picture", options={"asset": "anchor"}, place=Place(size=(90.0, 90.0)))
    editor.do(set_widget, seal, "an icon")
    editor.do(select_widget, "seal")
    QApplication.processEvents()
    field = hand.window.desk.card.findChild(Field, "options, asset") or next(
        one for one in hand.window.desk.card.findChildren(Field) if one.accessibleName() == "options, asset"
    )
    hand.type_into(field, str(picture(tmp_path, "reef.png")))
    made = editor.now.project.widget("seal")
    assert (made.options, made.place.size) == ({"asset": "art/reef.png", "proportions": "keep"}, (64.0, 36.0))
    hand.key(Key.Key_Z, CTRL)
    assert editor.now.project.widget("seal") == seal, "one undo step"


def test_columns_of_a_table_are_fitted_by_a_command(hand: Hand) -> None:
    editor = hand.window.editor
    crew = editor.now.project.widget("crew_table")
    narrow = [{**column, "width": 20.0} for column in crew.options["columns"]]
    editor.do(set_widget, replace(crew, options={**crew.options, "columns": narrow}), "too narrow")
    editor.do(select_widget, "crew_table")
    QApplication.processEvents()
    hand.command("Fit the table")
    widths = [column["width"] for column in editor.now.project.widget("crew_table").options["columns"]]
    assert min(widths) > 20
    assert not cut_cells([editor.now.tracks], editor.now.bound.widgets["crew_table"])
