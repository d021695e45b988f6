"""Assets chosen on the card."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QColor, QImage
from PySide6.QtTest import QTest

from avrin.app.bind_desk.card.fields import StructFields
from avrin.app.controls.field import Field
from avrin.app.main import application
from avrin.app.window.window import Window
from avrin.bundled_fonts import packed_font
from avrin.editor.edits import undo
from avrin.editor.selecting import select_widget
from avrin.kinds.shapes import Font, TextRun
from avrin.render.fonts import MONO
from avrin.render.scene import scene
from window_fixtures import messages, qapp, window  # noqa: F401


def look(window: Window) -> StructFields:
    window.editor.do(select_widget, "spare_cells")
    application().processEvents()
    return next(f for f in window.findChildren(StructFields) if "asset" in f.fields and f.ident == "spare_cells")


def write(window: Window, text: str) -> Field:
    field = look(window).fields["asset"]
    assert isinstance(field, Field)
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)
    application().processEvents()
    return field


def asset(window: Window) -> object:
    return window.editor.now.project.widget("spare_cells").look["asset"]


def test_a_file_from_elsewhere_is_copied_beside_the_project(window: Window, tmp_path: Path) -> None:
    before = asset(window)
    image = QImage(8, 8, QImage.Format.Format_ARGB32)
    image.fill(QColor("#ff0000"))
    image.save(str(tmp_path / "ball.png"))
    write(window, QUrl.fromLocalFile(str(tmp_path / "ball.png")).toString())  # as a dropped file reads
    assert asset(window) == "art/ball.png"
    assert (window.editor.now.folder / "art" / "ball.png").read_bytes() == (tmp_path / "ball.png").read_bytes()
    window.editor.do(undo)
    assert asset(window) == before


def test_what_is_no_picture_is_reported_and_changes_nothing(window: Window, tmp_path: Path) -> None:
    before, told = asset(window), messages(window)
    write(window, str(tmp_path / "gone.png"))
    assert asset(window) == before
    assert [one.error for one in told if "gone.png" in one.text] == [True]


def test_an_icon_is_chosen_from_the_menu(window: Window) -> None:
    menu = look(window).choices("asset")
    next(action for action in menu.actions() if action.text() == "heart").trigger()
    assert asset(window) == "heart"


def test_a_font_from_a_file_is_copied_and_drawn_in_the_same_shapes(window: Window, tmp_path: Path) -> None:
    (tmp_path / "deep.ttf").write_bytes(packed_font(MONO.file))
    window.editor.do(select_widget, "scrap")
    application().processEvents()
    fields = next(f for f in window.findChildren(StructFields) if "font" in f.fields and f.ident == "scrap")
    fields._taken("font", str(tmp_path / "deep.ttf"))
    assert window.editor.now.project.widget("scrap").look["font"] == "fonts/deep.ttf"
    placed = next(p for p in scene(window.editor.now.tracks, 0, window.editor.now.view.screen) if p.ident == "scrap")
    fonts = {shape.font for shape in placed.group.shapes if isinstance(shape, TextRun)}
    assert fonts == {Font(str(window.editor.now.folder / "fonts" / "deep.ttf"))}
    assert "the bundled one" in [action.text() for action in fields.choices("font").actions()]
