"""Where a warning should begin: what it would have done at each limit, over all recordings, no frame and no value left out."""

from avrin.tuning.alarms import Alarms, alarms
from avrin.tuning.backs import BackMap, back_map, usual_gaps, with_gap
from avrin.tuning.curves import COLUMNS, Curves, Outcome, Terms, curves, false_at, outcomes_at
from avrin.tuning.lessons import Lesson, is_lesson, lesson_table, lessons
from avrin.tuning.moving import is_share, level_said, with_limit
from avrin.tuning.signals import RESTART, Question, Signal, asked, signals
from avrin.tuning.table import table
from avrin.tuning.values import stepped, usual_values

__all__ = [
    "COLUMNS",
    "RESTART",
    "Alarms",
    "BackMap",
    "Curves",
    "Lesson",
    "Outcome",
    "Question",
    "Signal",
    "Terms",
    "alarms",
    "asked",
    "back_map",
    "curves",
    "false_at",
    "is_lesson",
    "is_share",
    "lesson_table",
    "lessons",
    "level_said",
    "outcomes_at",
    "signals",
    "stepped",
    "table",
    "usual_gaps",
    "usual_values",
    "with_gap",
    "with_limit",
]
