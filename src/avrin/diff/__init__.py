"""Diffs of two projects: entry by entry, and by what they show over recordings, frame by frame."""
