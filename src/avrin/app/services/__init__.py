"""The editor of a window, its files and recordings, and what is computed in the background. Contains no widgets.

`editor` replaces the snapshot and says what changed; `followers` says who is told of it, in which order; `jobs` work from
a snapshot and are cancelled when a part they read is replaced; `workspace` makes all of them for a window.
"""
