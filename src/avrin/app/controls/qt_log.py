"""Redirect Qt's messages to the log."""

from __future__ import annotations

import logging

from PySide6.QtCore import QMessageLogContext, QtMsgType, qInstallMessageHandler

__all__ = ["quiet_toolkit"]

toolkit = logging.getLogger("avrin.toolkit")


def quiet_toolkit() -> None:
    """Install the message handler in this process."""
    levels = {
        QtMsgType.QtDebugMsg: logging.DEBUG,
        QtMsgType.QtInfoMsg: logging.DEBUG,
        QtMsgType.QtWarningMsg: logging.INFO,
    }

    def log_message(sort: QtMsgType, _context: QMessageLogContext, text: str) -> None:
        toolkit.log(levels.get(sort, logging.ERROR), "%s", text)

    qInstallMessageHandler(log_message)
