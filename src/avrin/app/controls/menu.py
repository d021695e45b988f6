"""A menu in the window's style."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMenu, QWidget

from avrin.app.controls.theme import sheet

__all__ = ["new_menu"]

SHEET = """
    QMenu {{ background: {raised}; color: {ink}; border: 1px solid {line}; border-radius: 4px; padding: 4px; }}
    QMenu::item {{ padding: 5px 24px 5px 12px; border-radius: 3px; }}
    QMenu::item:selected {{ background: {soft}; color: {ink}; }}
    QMenu::item:disabled {{ color: {third}; }}
    QMenu::separator {{ height: 1px; background: {line}; margin: 4px 8px; }}
"""


def new_menu(parent: QWidget) -> QMenu:
    """Return an empty menu that is deleted after use."""
    made = QMenu(parent)
    made.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    made.setStyleSheet(sheet(SHEET))
    return made
