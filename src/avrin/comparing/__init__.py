"""Diffs of two projects: entry by entry, and by what they show over recordings, frame by frame."""

from avrin.comparing.entries import Changed, Entries, entries
from avrin.comparing.flat import flat
from avrin.comparing.page import page, side
from avrin.comparing.pictures import PictureStretch, picture_stretches
from avrin.comparing.reports import DIFFS, Difference
from avrin.comparing.revisions import Revision, project_at, revisions
from avrin.comparing.stretches import Stretch, both_bound, stretches

__all__ = [
    "DIFFS",
    "Changed",
    "Difference",
    "Entries",
    "PictureStretch",
    "Revision",
    "Stretch",
    "both_bound",
    "entries",
    "flat",
    "page",
    "picture_stretches",
    "project_at",
    "revisions",
    "side",
    "stretches",
]
