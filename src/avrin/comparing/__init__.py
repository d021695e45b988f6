"""What a change changed: two projects compared entry by entry, and by what they show over recordings, frame by frame."""

from avrin.comparing.entries import Changed, Entries, entries
from avrin.comparing.page import page
from avrin.comparing.reports import DIFFS, Difference
from avrin.comparing.revisions import project_at
from avrin.comparing.stretches import Stretch, both_bound, stretches

__all__ = [
    "DIFFS",
    "Changed",
    "Difference",
    "Entries",
    "Stretch",
    "both_bound",
    "entries",
    "page",
    "project_at",
    "stretches",
]
