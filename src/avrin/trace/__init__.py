"""Recorded game state: frames, runs, typed columns and events; readers, writers, generators. Knows no rules, widgets or Qt."""
