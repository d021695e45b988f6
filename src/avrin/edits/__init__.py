"""Edits of widgets: move, align, distribute, reorder, copy, group, rename, change kind. Knows no Qt."""
