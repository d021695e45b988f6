"""Execution of work over many recordings: their locations, and executors: a loop, local processes or a cluster."""

from avrin.execution.bundle import program, unpacked
from avrin.execution.event_discovery import Happening, add_events, discover_events
from avrin.execution.executor import executor, usual_jobs
from avrin.execution.interface import Executor, WorkerLost
from avrin.execution.locations import Location, at_hand, locations, stamp
from avrin.execution.mapping import Mapped, map_recordings
from avrin.execution.partitioning import cost, in_parts
from avrin.execution.retries import ENDED, each_part
from avrin.execution.task import Task, as_listed, asks_events, bound, opened, read, seen_key, task

__all__ = [
    "ENDED",
    "Executor",
    "Happening",
    "Location",
    "Mapped",
    "Task",
    "WorkerLost",
    "add_events",
    "as_listed",
    "asks_events",
    "at_hand",
    "bound",
    "cost",
    "discover_events",
    "each_part",
    "executor",
    "in_parts",
    "locations",
    "map_recordings",
    "opened",
    "program",
    "read",
    "seen_key",
    "stamp",
    "task",
    "unpacked",
    "usual_jobs",
]
