"""Execution of work over many recordings: their locations, and executors: a loop, local processes or a cluster."""

from avrin.spread.bundle import program, unpacked
from avrin.spread.crew import crew, usual_jobs
from avrin.spread.cutting import cost, in_parts
from avrin.spread.gathering import Gathered, gather
from avrin.spread.hearing import Happening, add_events, hear
from avrin.spread.places import Place, at_hand, places, stamp
from avrin.spread.retrying import ENDED, each_part
from avrin.spread.task import Task, as_listed, asks_events, bound, opened, read, seen_key, task
from avrin.spread.work import Crew, Lost

__all__ = [
    "ENDED",
    "Crew",
    "Gathered",
    "Happening",
    "Lost",
    "Place",
    "Task",
    "add_events",
    "as_listed",
    "asks_events",
    "at_hand",
    "bound",
    "cost",
    "crew",
    "each_part",
    "gather",
    "hear",
    "in_parts",
    "opened",
    "places",
    "program",
    "read",
    "seen_key",
    "stamp",
    "task",
    "unpacked",
    "usual_jobs",
]
