"""Diffs of two projects: entry by entry, and by what they show over recordings, frame by frame."""

from avrin.diff.entries import Changed, Entries, entries
from avrin.diff.flat import flat
from avrin.diff.page import page, side
from avrin.diff.pictures import PictureStretch, picture_stretches
from avrin.diff.reports import DIFFS, Difference
from avrin.diff.revisions import Revision, project_at, revisions
from avrin.diff.stretches import Stretch, both_bound, stretches

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
