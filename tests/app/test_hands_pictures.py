"""Parts of pictures by mouse and keys: cells of a glyph sheet set, a frame's border dragged, read back from the file."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from PIL import Image
from PySide6.QtCore import QPoint
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from gestures import CTRL, LEFT, PLAIN, Hand, Key
from window_fixtures import qapp, window  # noqa: F401


def sheet(path: Path, columns: int, rows: int, gap: int = 2) -> Path:
    """Solid glyphs of 12 × 16 pixels in the middle of their cells."""
    image = Image.new("RGBA", (columns * 12, rows * 16))
    for number in range(columns * rows):
        row, column = divmod(number, columns)
        glyph = Image.new("RGBA", (12 - 2 * gap, 16 - 2 * gap), (255, 255, 255, 255))
        image.paste(glyph, (column * 12 + gap, row * 16 + gap))
    image.save(path)
    return path


@pytest.fixture
def hand(window: Any) -> Hand:
    hand = Hand(window)
    hand.press(hand.at("scrap"))
    return hand


def with_face(hand: Hand, picture: Path) -> Any:
    """The card's sheet, of a picture that was chosen; and its popup."""
    hand.pressed("+ face")
    hand.paste_into(hand.window.desk.card._structs[0].fields["face.picture"], str(picture))
    hand.pressed("its cells …")
    return hand.window.desk.sheet_edit


def face(hand: Hand) -> dict[str, Any]:
    found: dict[str, Any] = hand.widget("scrap")["options"]["face"]
    return found


def test_the_cells_of_a_sheet_are_found_and_reported_one_after_another(hand: Hand, tmp_path: Path) -> None:
    edit = with_face(hand, sheet(tmp_path / "figures.png", 5, 3))
    assert edit.isVisible()
    hand.pressed("find the cells")
    assert face(hand) == {"picture": "art/figures.png", "cell": [12, 16], "per_row": 5, "characters": "0123456789:.,+-"}
    assert not edit.missing.isVisibleTo(edit)
    at = edit.cells.rect_of(7).center().toPoint()
    QTest.mouseClick(edit.cells, LEFT, pos=at)
    QTest.keyClicks(edit.cells, "xyz")
    assert face(hand)["characters"] == "0123456xyz:.,+-"
    QTest.keyClick(edit.cells, Key.Key_Backspace)
    QTest.keyClicks(edit.cells, "7")
    assert face(hand)["characters"] == "0123456xy7:.,+-"
    assert edit.missing.isVisibleTo(edit), "an 8, or a 9, is written and is not there"
    hand.key(Key.Key_Z, CTRL)
    assert face(hand)["characters"] == "0123456xyz:.,+-"


def test_a_sheet_without_gaps_says_so_and_takes_numbers(hand: Hand, tmp_path: Path) -> None:
    edit = with_face(hand, sheet(tmp_path / "tight.png", 10, 1, gap=0))
    before = face(hand)
    hand.pressed("find the cells")
    assert "no gaps" in hand.window.message.text()
    assert face(hand) == before
    hand.type_into(edit.wide, "12")
    hand.type_into(edit.high, "16")
    assert face(hand)["cell"] == [12, 16]
    hand.type_into(edit.per_row, "x")
    assert face(hand) == {**before, "cell": [12, 16]}
    hand.type_into(edit.characters, "9876543210")
    assert face(hand)["characters"] == "9876543210"


def test_a_picture_too_large_or_none_at_all_is_reported(hand: Hand, tmp_path: Path) -> None:
    (tmp_path / "none.png").write_bytes(b"no picture")
    edit = with_face(hand, tmp_path / "none.png")
    before = face(hand)
    hand.pressed("find the cells")
    assert "not a PNG picture" in hand.window.message.text()
    assert face(hand) == before
    QTest.mouseClick(edit.cells, LEFT)
    QTest.keyClicks(edit.cells, "a")
    assert face(hand) == before


def test_the_lines_of_a_border_are_dragged_one_a_side(hand: Hand, tmp_path: Path) -> None:
    Image.new("RGBA", (40, 30), (200, 180, 90, 255)).save(tmp_path / "frame.png")
    hand.press(hand.at("vitals", 0.98, 0.02))
    fields = hand.window.desk.card._structs[1].fields
    hand.paste_into(fields["asset"], str(tmp_path / "frame.png"))
    hand.type_into(fields["slice"], "8")
    link = next(w for w in hand.window.desk.card.findChildren(type(hand.window.header.screen_link).__mro__[1])
                if w.accessibleName() == "drag slice in the picture")  # fmt: skip
    QTest.mouseClick(link, LEFT)
    edit = hand.window.desk.border_edit
    assert edit.isVisible()
    unit = edit.lines.unit()
    start = edit.lines.line(2).center().toPoint()
    QTest.mousePress(edit.lines, LEFT, pos=start)
    for by in (2, 5):
        QTest.mouseMove(edit.lines, start - QPoint(round(by * unit), 0))
    QTest.mouseRelease(edit.lines, LEFT, pos=start)
    assert hand.widget("vitals")["look"]["slice"] == [8, 8, 13, 8]
    hand.type_into(edit.fields["top"], "3")
    assert hand.widget("vitals")["look"]["slice"] == [8, 3, 13, 8]
    hand.type_into(edit.fields["top"], "much")
    assert hand.widget("vitals")["look"]["slice"] == [8, 3, 13, 8]
    assert fields["slice"].text() == "8, 3, 13, 8"
    hand.type_into(fields["slice"], "6")
    assert hand.widget("vitals")["look"]["slice"] == 6
    hand.key(Key.Key_Z, CTRL)
    assert hand.widget("vitals")["look"]["slice"] == [8, 3, 13, 8]


def test_a_key_is_chosen_by_pressing_it(hand: Hand) -> None:
    hand.press(hand.at("patch"))
    hand.window.activateWindow()

    def listening() -> Any:
        card = hand.window.desk.card
        names = ("choose a key by pressing it", "press the key")
        link = next(w for w in card.findChildren(QPushButton) if w.accessibleName() in names)
        QTest.mouseClick(link, LEFT)
        return link

    before = hand.widget("patch")["options"]["key"]
    frame = hand.window.editor.now.frame
    for key, keys, name in ((Key.Key_Right, PLAIN, "Right"), (Key.Key_Tab, PLAIN, "Tab"), (Key.Key_K, CTRL, "Ctrl+K")):
        QTest.keyClick(listening(), key, keys)
        assert hand.widget("patch")["options"]["key"] == name
    link = listening()
    QTest.keyPress(link, Key.Key_Shift)
    QTest.keyRelease(link, Key.Key_Shift)
    assert hand.widget("patch")["options"]["key"] == "Shift"
    QTest.keyClick(listening(), Key.Key_Escape)
    assert hand.widget("patch")["options"]["key"] == "Shift"
    assert hand.window.editor.now.frame == frame, "no key ran a command"
    assert not hand.window.popups.finder.isVisible()
    assert before != "Shift"
