"""The Ladder desk: every widget around its thresholds, over all recordings."""
