"""The log: all of it in a file of the user's state folder, warnings on the terminal as single lines.

A fault of our own never ends in a traceback before the user: that goes into the file, and its first line is told.
"""

from __future__ import annotations

import logging
import sys
import warnings
from pathlib import Path

from avrin.model import AvrinError, folder_for, one_line, state_folder

__all__ = ["begin_logging", "log_file", "told_fault"]

LARGEST = 1_000_000  # bytes of the file before it is put aside; one such is kept
FORM = "%(asctime)s %(levelname)s %(name)s: %(message)s"


def log_file() -> Path:
    """Where it is kept."""
    return state_folder() / "avrin.log"


class _Terminal(logging.Handler):
    """One line each, as all that the command line says; whatever standard error is by then."""

    def emit(self, record: logging.LogRecord) -> None:
        """A record's first line."""
        print(f"avrin: {one_line(record.getMessage().splitlines()[0])}", file=sys.stderr)


class _File(logging.Handler):
    """The file, opened by its first line: what keeps it from growing brings sockets along, which no start need wait for."""

    def __init__(self) -> None:
        super().__init__()
        self._file: logging.Handler | None = None

    def emit(self, record: logging.LogRecord) -> None:
        """A record with its time, its level and whose it is."""
        if self._file is None:
            self._file = _opened()
        self._file.emit(record)

    def close(self) -> None:
        """Nothing more comes."""
        if self._file is not None:
            self._file.close()
        super().close()


def _opened() -> logging.Handler:
    from logging.handlers import RotatingFileHandler

    try:
        file = RotatingFileHandler(
            folder_for(log_file()), maxBytes=LARGEST, backupCount=1, encoding="utf-8", delay=True
        )
    except (AvrinError, OSError):
        return logging.NullHandler()  # a home that cannot be written to is no reason to do nothing
    file.setFormatter(logging.Formatter(FORM))
    return file


def begin_logging(*, verbose: bool) -> None:
    """Begin to keep a log. verbose: all of it on the terminal as well, and in more detail. Begun again, it begins anew."""
    ours = logging.getLogger("avrin")
    for handler in list(ours.handlers):
        ours.removeHandler(handler)
        handler.close()
    ours.setLevel(logging.DEBUG if verbose else logging.INFO)
    terminal = _Terminal(logging.DEBUG if verbose else logging.WARNING)
    terminal.addFilter(lambda record: verbose or record.exc_info is None)  # a fault is told by who caught it
    ours.addHandler(terminal)
    ours.addHandler(_File())
    warnings.showwarning = _log_warning
    logging.raiseExceptions = False  # a disk that is full is no reason to do nothing


def _log_warning(
    message: Warning | str,
    category: type[Warning],
    filename: str,
    lineno: int,
    file: object = None,
    line: object = None,
) -> None:
    """What a library warns of is for who works on the program: no terminal shows it."""
    del file, line
    logging.getLogger("avrin.libraries").info("%s: %s (%s:%d)", category.__name__, message, filename, lineno)


def told_fault(error: BaseException) -> str:
    """What is told of a fault of our own, in one line; its trace is in the log."""
    first = str(error).splitlines()[0] if str(error) else type(error).__name__
    return f"a fault inside Avrin: {first}. Details: {log_file()}"
