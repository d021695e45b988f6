"""Ladders: every widget just below, at and just above each of its edges. Knows no Qt."""

from avrin.ladder.comparison import otherwise
from avrin.ladder.coverage import Stay, Stretches, coverage, state_stretches
from avrin.ladder.coverage_sheet import Covered, coverage_sheet, coverage_table
from avrin.ladder.distribution import Found
from avrin.ladder.drivers import drivers
from avrin.ladder.files import page, states_page, table
from avrin.ladder.generated_trace import made_for
from avrin.ladder.intervals import Interval
from avrin.ladder.rows import Arrival, Cells, Row, RowWork, never_shown, sweep_row
from avrin.ladder.samples import Climb, Ladder, Sample, finish, sample_ladder, samples
from avrin.ladder.sheet import PAPER, Link, Paper, RowSheet, interval_words, percent, row_sheet, whole_sheet

__all__ = [
    "PAPER",
    "Arrival",
    "Cells",
    "Climb",
    "Covered",
    "Found",
    "Interval",
    "Ladder",
    "Link",
    "Paper",
    "Row",
    "RowSheet",
    "RowWork",
    "Sample",
    "Stay",
    "Stretches",
    "coverage",
    "coverage_sheet",
    "coverage_table",
    "drivers",
    "finish",
    "interval_words",
    "made_for",
    "never_shown",
    "otherwise",
    "page",
    "percent",
    "row_sheet",
    "sample_ladder",
    "samples",
    "state_stretches",
    "states_page",
    "sweep_row",
    "table",
    "whole_sheet",
]
