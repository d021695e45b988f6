"""Controls by themselves, by mouse and keys: a field for a number, and the link that saves a view."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu
from pytestqt.qtbot import QtBot

from avrin.app.controls import save_link
from avrin.app.controls.number_field import NumberField
from avrin.app.controls.save_link import SaveLink
from avrin.app.services.plates import dropped_kind
from avrin.edits.typed import NumberInput
from avrin.errors import AvrinError
from window_fixtures import qapp  # noqa: F401

Key = Qt.Key
SECONDS = NumberInput("a number of seconds", "1.5", unit="s", low=0, high=60)


def test_a_number_is_committed_and_another_text_is_marked_and_reported(qtbot: QtBot) -> None:
    reports: list[str] = []
    numbers: list[float] = []
    field = NumberField("seconds", 60, SECONDS, reports.append)
    qtbot.addWidget(field)
    field.show()
    field.entered.connect(numbers.append)
    for text in ("2,5 s", "soon", "61", "4"):
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Key.Key_Return)
        assert field._wrong == (text in ("soon", "61"))
        assert field.read() == (None if field._wrong else numbers[-1])
    assert numbers == [2.5, 4.0]
    assert set(reports) == {f"'{text}' is not a number of seconds. Write for example 1.5" for text in ("soon", "61")}


@pytest.fixture
def reports() -> list[str]:
    return []


@pytest.fixture
def link(qtbot: QtBot, tmp_path: Path, reports: list[str]) -> SaveLink:
    """It saves anything but pages."""

    def save(path: Path) -> None:
        if path.suffix == ".html":
            raise AvrinError("cannot be written", place=(path.name,))
        path.write_text("saved")

    kinds = {"A picture …": ".png", "A page …": ".html"}
    made = SaveLink("Save it", lambda end: tmp_path / f"view{end}", lambda: kinds, save, reports.append)
    qtbot.addWidget(made)
    made.show()
    return made


def chosen_from_the_menu(link: SaveLink, number: int) -> list[str]:
    """Open the menu with the mouse and choose an entry with the keys; return the entries."""
    QTest.mouseClick(link, Qt.MouseButton.LeftButton)
    menu = QApplication.activePopupWidget()
    assert isinstance(menu, QMenu)
    texts = [action.text() for action in menu.actions()]
    for _ in range(number + 1):
        QTest.keyClick(menu, Key.Key_Down)
    QTest.keyClick(menu, Key.Key_Return)
    return texts


@pytest.mark.parametrize(
    ("number", "name", "written"),
    [(0, "mine.png", "mine.png"), (0, "mine", "mine.png"), (0, None, None), (1, "a.html", None)],
)
def test_a_view_is_saved_in_the_chosen_format(
    link: SaveLink,
    reports: list[str],
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    number: int,
    name: str | None,
    written: str | None,
) -> None:
    asked: list[tuple[str, Path, str]] = []

    def ask(_parent: object, title: str, proposed: Path, sorts: str) -> Path | None:
        asked.append((title, proposed, sorts))
        return tmp_path / name if name is not None else None

    monkeypatch.setattr(save_link, "ask_target", ask)
    assert chosen_from_the_menu(link, number) == ["A picture …", "A page …"]
    ending = (".png", ".html")[number]
    assert asked == [("Save it", tmp_path / f"view{ending}", f"*{ending}")]
    assert [path.name for path in tmp_path.iterdir()] == ([written] if written is not None else [])
    assert reports == (["a.html: cannot be written"] if name == "a.html" else [])


PLAIN = [f"shot{number}" for number in range(8)]


@pytest.mark.parametrize(
    ("names", "kind"),
    [
        ([], "recordings"), (["a.csv"], "recordings"), (["a.mp4", "b.MP4"], "films"), (["a.mp4", "b.png"], "recordings"),
        (["a.png", "b.SVG"], "pictures"), ([f"{name}.png" for name in PLAIN], "pictures"),
        ([f"{name}.tif" for name in PLAIN], "numbered"), ([f"{name}.tif" for name in PLAIN[1:]], "recordings"),
        ([*(f"{name}.tif" for name in PLAIN), "a.csv"], "recordings"),
    ],
)  # fmt: skip
def test_what_dropped_files_can_become(names: list[str], kind: str) -> None:
    assert dropped_kind([Path(name) for name in names]) == kind
