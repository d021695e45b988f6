"""Execution of work over many recordings: their locations, and executors: a loop, local processes or a cluster."""
