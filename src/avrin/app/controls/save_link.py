"""A link that saves a view to a file in one of several formats."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint

from avrin.app.controls.file_dialogs import ask_target, ending_in
from avrin.app.controls.link import Link
from avrin.app.controls.menu import new_menu
from avrin.errors import AvrinError

__all__ = ["SaveLink"]


class SaveLink(Link):
    """Opens a menu of formats, asks for a file, and saves.

    title: of the file dialog. proposed: returns the path proposed for an ending. kinds: returns ending by menu text.
    save: writes a file in the format of its ending. report: shows an error to the user.
    """

    def __init__(
        self,
        title: str,
        proposed: Callable[[str], Path],
        kinds: Callable[[], Mapping[str, str]],
        save: Callable[[Path], None],
        report: Callable[[str], object],
    ) -> None:
        super().__init__("save as", self._open_menu, menu=True, bold=True)
        self._title = title
        self._proposed = proposed
        self._kinds = kinds
        self._save = save
        self._report = report

    def _open_menu(self) -> None:
        menu = new_menu(self)
        for text, ending in self._kinds().items():
            menu.addAction(text, partial(self._ask, ending))
        menu.popup(self.mapToGlobal(QPoint(0, self.height() + 2)))

    def _ask(self, ending: str) -> None:
        chosen = ask_target(self, self._title, self._proposed(ending), f"*{ending}")
        if chosen is not None:
            try:
                self._save(ending_in(ending, chosen))
            except AvrinError as error:
                self._report(str(error))
