"""Deliverables for the game's programmers. Knows no Qt."""
