"""File dialogs for opening and saving."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QMimeData
from PySide6.QtWidgets import QWidget

__all__ = ["ask_file", "ask_files", "ask_folder", "ask_target", "dropped_files", "ending_in"]


def ask_file(parent: QWidget, title: str, folder: Path, sorts: str) -> Path | None:
    """Return a file to open, or None. sorts: Qt's filter syntax, "Words (*.end *.other)"."""
    from PySide6.QtWidgets import QFileDialog  # late: 1 ms

    name, _ = QFileDialog.getOpenFileName(parent, title, str(folder), sorts)
    return Path(name) if name else None


def ask_files(parent: QWidget, title: str, folder: Path, sorts: str) -> list[Path]:
    """Return files to open; empty if cancelled. Otherwise like `ask_file`."""
    from PySide6.QtWidgets import QFileDialog  # late: 1 ms

    names, _ = QFileDialog.getOpenFileNames(parent, title, str(folder), sorts)
    return [Path(name) for name in names]


def ask_folder(parent: QWidget, title: str, folder: Path) -> Path | None:
    """Return a folder, or None if cancelled."""
    from PySide6.QtWidgets import QFileDialog  # late: 1 ms

    name = QFileDialog.getExistingDirectory(parent, title, str(folder))
    return Path(name) if name else None


def ask_target(parent: QWidget, title: str, proposed: Path, sorts: str) -> Path | None:
    """Return a path to save to, or None. proposed: the initial name."""
    from PySide6.QtWidgets import QFileDialog  # late: 1 ms

    name, _ = QFileDialog.getSaveFileName(parent, title, str(proposed), sorts)
    return Path(name) if name else None


def dropped_files(data: QMimeData) -> list[Path]:
    """Return the local files of a drag."""
    return [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]


def ending_in(end: str, path: Path) -> Path:
    """Return a chosen path with the ending of its format, if it was omitted."""
    return path if path.name.endswith(end) else path.with_name(path.name + end)
