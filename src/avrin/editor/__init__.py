"""The editor without its window: the state as one immutable snapshot, and commands that return the next one."""
