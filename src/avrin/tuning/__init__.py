"""Tune warnings: the result of every limit over all recordings, exact for every frame and value."""

from avrin.tuning.alarms import Alarms, alarms
from avrin.tuning.apply_limit import duration_text, is_share, limit_text, with_limit
from avrin.tuning.curves import (
    COLUMNS,
    Counted,
    Curves,
    Outcome,
    Terms,
    counted,
    curves,
    false_at,
    outcomes_at,
    together,
)
from avrin.tuning.goals import Hard, Wish, best, fulfils, hard, nearest_limit
from avrin.tuning.lessons import Lesson, is_lesson, lesson_rows, lesson_table, lessons
from avrin.tuning.pairs import (
    SECOND_VALUES,
    PairMap,
    SecondValue,
    pair_map,
    usual_gaps,
    usual_waits,
    with_gap,
    with_wait,
)
from avrin.tuning.signals import RESTART, Question, Signal, asked, signals
from avrin.tuning.suggestions import rare_flags
from avrin.tuning.table import table
from avrin.tuning.values import Levels, all_levels, levels, stepped, usual_values

__all__ = [
    "COLUMNS",
    "RESTART",
    "SECOND_VALUES",
    "Alarms",
    "Counted",
    "Curves",
    "Hard",
    "Lesson",
    "Levels",
    "Outcome",
    "PairMap",
    "Question",
    "SecondValue",
    "Signal",
    "Terms",
    "Wish",
    "alarms",
    "all_levels",
    "asked",
    "best",
    "counted",
    "curves",
    "duration_text",
    "false_at",
    "fulfils",
    "hard",
    "is_lesson",
    "is_share",
    "lesson_rows",
    "lesson_table",
    "lessons",
    "levels",
    "limit_text",
    "nearest_limit",
    "outcomes_at",
    "pair_map",
    "rare_flags",
    "signals",
    "stepped",
    "table",
    "together",
    "usual_gaps",
    "usual_values",
    "usual_waits",
    "with_gap",
    "with_limit",
    "with_wait",
]
