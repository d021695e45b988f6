"""Tune warnings: the result of every limit over all recordings, exact for every frame and value."""
