"""Sweeps of a project over thousands of recordings: states, findings and errors of each."""
