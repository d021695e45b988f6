"""Recorded state: frames, runs, typed columns, events; readers, writers, makers. Knows no rules, widgets or Qt."""

from avrin.trace.clock import UNSAID, Clock
from avrin.trace.declare import guess
from avrin.trace.frames import (
    FALSE,
    KIND_OF,
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
    events_of,
    present,
)
from avrin.trace.growing import Growing, pinned
from avrin.trace.kept import Kept
from avrin.trace.making import PARTS, Plan, made_trace
from avrin.trace.pyramid import Pyramid
from avrin.trace.store import ENDINGS, open_trace, save_trace, write_table
from avrin.trace.summary import ColumnSummary, summarise, summarise_column

__all__ = [
    "ENDINGS",
    "FALSE",
    "KIND_OF",
    "MISSING",
    "NO_TEXT",
    "PARTS",
    "TRUE",
    "UNSAID",
    "Array",
    "Clock",
    "Column",
    "ColumnKind",
    "ColumnSummary",
    "Event",
    "FloatArray",
    "Growing",
    "Kept",
    "Plan",
    "Pyramid",
    "Trace",
    "Value",
    "event_column",
    "events_of",
    "guess",
    "made_trace",
    "open_trace",
    "pinned",
    "present",
    "save_trace",
    "summarise",
    "summarise_column",
    "write_table",
]
