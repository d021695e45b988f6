"""Recorded game state: frames, runs, typed columns and events; readers, writers, generators. Knows no rules, widgets or Qt."""

from avrin.trace.behaviour import Behaviour, RunsFound, behaviour, runs_by_behaviour
from avrin.trace.clock import AT_RESTARTS, EACH_ROW, ONE_RUN, UNSAID, Clock, NoTimeError, counts_runs
from avrin.trace.copying import beside, copy_file, files_of, free_place
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
    is_event_column,
    present,
)
from avrin.trace.generate import PARTS, Plan, generate_trace
from avrin.trace.growing import Growing, pinned
from avrin.trace.naming import FoundRoster, Naming, plain_name, proposed, with_project_names
from avrin.trace.progress import hearing
from avrin.trace.pyramid import Pyramid
from avrin.trace.result_cache import ResultCache
from avrin.trace.start_values import with_start_values
from avrin.trace.store import ENDINGS, open_guessing, open_listed, open_trace, save_trace, write_table
from avrin.trace.summary import ColumnSummary, summarise, summarise_column

__all__ = [
    "AT_RESTARTS",
    "EACH_ROW",
    "ENDINGS",
    "FALSE",
    "KIND_OF",
    "MISSING",
    "NO_TEXT",
    "ONE_RUN",
    "PARTS",
    "TRUE",
    "UNSAID",
    "Array",
    "Behaviour",
    "Clock",
    "Column",
    "ColumnKind",
    "ColumnSummary",
    "Event",
    "FloatArray",
    "FoundRoster",
    "Growing",
    "Naming",
    "NoTimeError",
    "Plan",
    "Pyramid",
    "ResultCache",
    "RunsFound",
    "Trace",
    "Value",
    "behaviour",
    "beside",
    "copy_file",
    "counts_runs",
    "event_column",
    "events_of",
    "files_of",
    "free_place",
    "generate_trace",
    "guess",
    "hearing",
    "is_event_column",
    "open_guessing",
    "open_listed",
    "open_trace",
    "pinned",
    "plain_name",
    "present",
    "proposed",
    "runs_by_behaviour",
    "save_trace",
    "summarise",
    "summarise_column",
    "with_project_names",
    "with_start_values",
    "write_table",
]
