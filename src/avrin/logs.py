"""The log: everything goes to a file in the user's state folder, warnings also to the terminal as single lines.

An internal error never shows the user a traceback: the traceback goes into the file, its first line to the user.
"""

from __future__ import annotations

import logging
import sys
import warnings
from pathlib import Path

from avrin.errors import AvrinError, reason_of
from avrin.printable import one_line
from avrin.storage.folders import folder_for, state_folder

__all__ = ["begin_logging", "describe_fault", "log_file"]

LARGEST = 1_000_000  # bytes at which the file is rotated; one older file is retained
FORM = "%(asctime)s %(levelname)s %(name)s: %(message)s"


def log_file() -> Path:
    """Return the path of the log file."""
    return state_folder() / "avrin.log"


class _Terminal(logging.Handler):
    """Write one line per record to the current standard error, like every other message of the command line."""

    def emit(self, record: logging.LogRecord) -> None:
        """Write the first line of a record."""
        print(f"avrin: {one_line(record.getMessage().splitlines()[0])}", file=sys.stderr)


class _File(logging.Handler):
    """Open the file at the first record: the rotating handler imports sockets, which would slow down the start."""

    def __init__(self) -> None:
        super().__init__()
        self._file: logging.Handler | None = None

    def emit(self, record: logging.LogRecord) -> None:
        """Write a record with its time, level and logger."""
        if self._file is None:
            self._file = _opened()
        self._file.emit(record)

    def close(self) -> None:
        """Close the file."""
        if self._file is not None:
            self._file.close()
        super().close()


def _opened() -> logging.Handler:
    from logging.handlers import RotatingFileHandler  # late: 9 ms

    try:
        file = RotatingFileHandler(
            folder_for(log_file()), maxBytes=LARGEST, backupCount=1, encoding="utf-8", delay=True
        )
    except (AvrinError, OSError):
        return logging.NullHandler()  # a home folder that cannot be written must not stop the program
    file.setFormatter(logging.Formatter(FORM))
    return file


def begin_logging(*, verbose: bool) -> None:
    """Start logging. verbose: write every level to the terminal too. A second call replaces the first."""
    ours = logging.getLogger("avrin")
    for handler in list(ours.handlers):
        ours.removeHandler(handler)
        handler.close()
    ours.setLevel(logging.DEBUG if verbose else logging.INFO)
    terminal = _Terminal(logging.DEBUG if verbose else logging.WARNING)
    terminal.addFilter(
        lambda record: verbose or record.exc_info is None
    )  # a caught internal error is reported by its handler
    ours.addHandler(terminal)
    ours.addHandler(_File())
    warnings.showwarning = _log_warning
    logging.raiseExceptions = False  # a full disk must not stop the program


def _log_warning(
    message: Warning | str,
    category: type[Warning],
    filename: str,
    lineno: int,
    file: object = None,
    line: object = None,
) -> None:
    """Log a library's warning for developers; no terminal shows it."""
    del file, line
    logging.getLogger("avrin.libraries").info("%s: %s (%s:%d)", category.__name__, message, filename, lineno)


def describe_fault(error: BaseException) -> str:
    """Return the one-line message for an internal error; its traceback is in the log."""
    first = reason_of(error)
    return f"an internal error: {first}. Details: {log_file()}"
