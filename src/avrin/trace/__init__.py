"""Recorded state: frames, runs, typed columns; readers and writers. Knows no rules, widgets or Qt."""

from avrin.trace.csv_file import read_csv, write_csv
from avrin.trace.frames import (
    FALSE,
    MISSING,
    NO_TEXT,
    TRUE,
    Array,
    Column,
    ColumnKind,
    Event,
    FloatArray,
    Trace,
    Value,
    event_column,
)
from avrin.trace.kept import Kept
from avrin.trace.pyramid import Pyramid
from avrin.trace.store import open_trace
from avrin.trace.summary import ColumnSummary, summarise

__all__ = [
    "FALSE",
    "MISSING",
    "NO_TEXT",
    "TRUE",
    "Array",
    "Column",
    "ColumnKind",
    "ColumnSummary",
    "Event",
    "FloatArray",
    "Kept",
    "Pyramid",
    "Trace",
    "Value",
    "event_column",
    "open_trace",
    "read_csv",
    "summarise",
    "write_csv",
]
