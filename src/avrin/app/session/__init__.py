"""What is open and looked at, and the work it asks for. Holds no widgets.

`snapshot` is all of it as one immutable value; `present` replaces it and tells; `jobs` work from a snapshot and are dropped
when a part they read was replaced; `files`, `by_hand`, `extents` and `checking` are what is done with it; `session` is all
of them together, which the window is given.
"""
