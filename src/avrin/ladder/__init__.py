"""Ladders: every widget just below, at and just above each of its edges. Knows no Qt."""
