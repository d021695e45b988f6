"""Pictures that change on disk are shown anew at once; what is gone or broken is said."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtGui import QColor, QImage
from pytestqt.qtbot import QtBot

from avrin.app.services import art
from avrin.app.window.window import Window
from avrin.bundled_fonts import packed_font
from avrin.editor.edits import edit
from avrin.editor.viewing import show_over
from avrin.render.fonts import MONO, SANS
from window_fixtures import qapp, window  # noqa: F401


def picture(path: Path, colour: str, *, replaced: bool = False) -> None:
    image = QImage(64, 36, QImage.Format.Format_RGB32)
    image.fill(QColor(colour))
    if not replaced:
        assert image.save(str(path))
        return
    there = path.with_name("other.png")
    assert image.save(str(there))
    there.replace(path)


def middle(window: Window) -> str:
    hud = window.desk.hud
    return hud.grab().toImage().pixelColor(hud.picture_rect().center().toPoint()).name()


@pytest.mark.parametrize("replaced", [False, True])
def test_a_plate_that_changes_on_disk_is_drawn_anew(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, replaced: bool
) -> None:
    monkeypatch.setattr(art, "LOOK_MS", 0)
    editor = window.editor
    plate = next(one for one in editor.now.project.plates if one.picture)
    file = editor.now.folder / "plates" / "mine.png"
    picture(file, "#ff0000")
    mine = replace(plate, name="mine", picture="plates/mine.png", keep_clear=())
    editor.do(edit, replace(editor.now.project, plates=(mine,), widgets=()), "plate")
    editor.do(show_over, mine)
    qtbot.waitUntil(lambda: file in window.workspace.art.watched)
    assert middle(window) == "#ff0000"
    for colour in ("#00ff00", "#0000ff"):  # a replaced file is watched again
        picture(file, colour, replaced=replaced)
        stamp = file.stat().st_mtime_ns + 1_000_000_000
        os.utime(file, ns=(stamp, stamp))
        qtbot.waitUntil(lambda colour=colour: middle(window) == colour)  # type: ignore[misc]
    assert window.message.text() == "mine.png changed on disk and was reloaded"
    assert editor.now.project.plates == (mine,)
    shutil.move(file, file.with_name("away.png"))
    qtbot.waitUntil(lambda: "mine.png: gone" in window.message.text())
    file.write_bytes(b"broken")
    qtbot.waitUntil(lambda: "mine.png changed" in window.message.text())
    assert middle(window) not in ("#0000ff", "#00ff00")


def test_a_font_that_changes_on_disk_is_drawn_anew(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(art, "LOOK_MS", 0)
    editor, hud = window.editor, window.desk.hud
    fonts = editor.now.folder / "fonts"
    fonts.mkdir()
    words = editor.now.project.widget("cells_word")
    editor.do(edit, replace(editor.now.project, widgets=(words,)), "widgets")
    drawn = []
    for name, font in (("other", SANS), ("mine", MONO)):
        (fonts / f"{name}.ttf").write_bytes(packed_font(font.file))
        mine = replace(words, look={**words.look, "font": f"fonts/{name}.ttf"})
        editor.do(edit, replace(editor.now.project, widgets=(mine,)), "widgets")
        drawn.append(hud.grab().toImage())
    assert drawn[0] != drawn[1]
    file = fonts / "mine.ttf"
    qtbot.waitUntil(lambda: file in window.workspace.art.watched)
    shutil.copy(fonts / "other.ttf", file)
    qtbot.waitUntil(lambda: "mine.ttf changed" in window.message.text())
    assert hud.grab().toImage() == drawn[0]
