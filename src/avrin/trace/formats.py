"""The file formats of recordings. To add one, write a module with `read` and `write`, and add an entry here.

Loads no codec and no NumPy: command lines and file dialogs name the endings.
"""

from __future__ import annotations

from pathlib import PurePath

from msgspec import Struct

__all__ = ["ENDINGS", "ENDINGS_IN_WORDS", "EVENTS_ENDING", "FILE_FILTER", "FORMATS", "Format", "is_recording"]


class Format(Struct, frozen=True):
    """A format of recordings. module: has `read(path, kinds, clock)` and `write(trace, file, runs=…)`.

    is_table: its events and ambiguous column kinds are in a file next to it.
    """

    module: str
    is_table: bool


FORMATS = {
    ".csv": Format("avrin.trace.csv_file", is_table=True),
    ".parquet": Format("avrin.trace.parquet_file", is_table=True),
    ".jsonl": Format("avrin.trace.log_file", is_table=False),
}
ENDINGS = tuple(FORMATS)
ENDINGS_IN_WORDS = f"{', '.join(ENDINGS[:-1])} or {ENDINGS[-1]}"
EVENTS_ENDING = ".events.jsonl"  # of the file next to a table
FILE_FILTER = f"Recordings ({' '.join(f'*{ending}' for ending in ENDINGS)})"  # of file dialogs


def is_recording(name: str) -> bool:
    """Return whether a file is a recording by its name; the file with a table's events does not count."""
    return PurePath(name).suffix.lower() in FORMATS and not name.lower().endswith(EVENTS_ENDING)
