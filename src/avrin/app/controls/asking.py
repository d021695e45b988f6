"""Asking for a file, to be opened or to be written, in the toolkit's dialog."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QWidget

__all__ = ["ask_file", "ask_files", "ask_folder", "ask_target", "ending_in"]


def ask_file(parent: QWidget, title: str, folder: Path, sorts: str) -> Path | None:
    """One to be opened; None when nothing was chosen. sorts: as the toolkit writes them, "Words (*.end *.other)"."""
    from PySide6.QtWidgets import QFileDialog  # no start waits for it

    name, _ = QFileDialog.getOpenFileName(parent, title, str(folder), sorts)
    return Path(name) if name else None


def ask_files(parent: QWidget, title: str, folder: Path, sorts: str) -> list[Path]:
    """Some to be opened; none when nothing was chosen. Otherwise as `ask_file`."""
    from PySide6.QtWidgets import QFileDialog

    names, _ = QFileDialog.getOpenFileNames(parent, title, str(folder), sorts)
    return [Path(name) for name in names]


def ask_folder(parent: QWidget, title: str, folder: Path) -> Path | None:
    """A folder; None when nothing was chosen."""
    from PySide6.QtWidgets import QFileDialog

    name = QFileDialog.getExistingDirectory(parent, title, str(folder))
    return Path(name) if name else None


def ask_target(parent: QWidget, title: str, proposed: Path, sorts: str) -> Path | None:
    """A name to write to; None when nothing was chosen. proposed: the name that stands there at first."""
    from PySide6.QtWidgets import QFileDialog

    name, _ = QFileDialog.getSaveFileName(parent, title, str(proposed), sorts)
    return Path(name) if name else None


def ending_in(end: str, path: Path) -> Path:
    """A chosen name with the ending of what is written, where it was left out."""
    return path if path.name.endswith(end) else path.with_name(path.name + end)
