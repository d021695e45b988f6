"""The largest extent of the selected widget, on the card and in the picture."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest

from avrin.app.controls.link import Link
from avrin.app.main import application
from avrin.app.window.window import Window
from avrin.editor.edits import set_widget, undo
from avrin.editor.playback import go_to
from avrin.editor.selecting import select_widget
from window_fixtures import qapp, window  # noqa: F401


def largest(window: Window) -> Link | None:
    """The link on the card that states the extent and goes to its frame."""
    window.workspace.extents.wait()
    application().processEvents()
    links = [link for link in window.desk.card.findChildren(Link) if " over a box of " in link.text()]
    return next((link for link in links if link.isVisibleTo(window.desk.card)), None)


def test_a_bar_as_long_as_its_full_tells_how_long_it_gets_and_goes_there(window: Window) -> None:
    editor = window.editor
    editor.do(select_widget, "hull_bar")
    assert largest(window) is None  # always as long as its box
    bar = editor.now.project.widget("hull_bar")
    editor.do(set_widget, replace(bar, options={**bar.options, "per_unit": 4}), "longer bar")
    link = largest(window)
    assert link is not None
    assert link.text().startswith("to 560 × ")  # 140 points of 4 pixels
    editor.do(go_to, 0)
    QTest.mouseClick(link, Qt.MouseButton.LeftButton)
    assert editor.now.frame == window.workspace.extents.largest.frame  # type: ignore[union-attr]
    assert editor.now.value("hull_max") == 140
    editor.do(undo)
    assert largest(window) is None


def test_its_outline_stands_in_the_picture(window: Window) -> None:
    editor = window.editor
    editor.do(select_widget, "hull_bar")
    bar = editor.now.project.widget("hull_bar")
    editor.do(set_widget, replace(bar, options={**bar.options, "per_unit": 4}), "longer bar")
    hud = window.desk.hud

    def right_edge() -> set[str]:
        rect = hud.to_view(next(p for p in hud.placed if p.ident == "hull_bar").rect)
        x = round(rect.x() + 560 * rect.width() / bar.place.size[0])
        image = hud.grab().toImage()
        rows = range(round(rect.y()) + 8, round(rect.bottom()))
        return {QColor(image.pixel(c, y)).name() for c in (x - 1, x, x + 1) for y in rows}

    editor.do(go_to, 0)
    application().processEvents()
    before = right_edge()
    assert largest(window) is not None
    assert any(QColor(name).lightness() > 170 for name in right_edge() - before)
