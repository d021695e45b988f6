"""The editor state and its background work. Contains no widgets.

`snapshot` is the whole state as one immutable value; `editor_state` replaces it and emits signals; `jobs` work from a
snapshot and are cancelled when a part they read is replaced; `files`, `manual_values`, `extents` and `checking` are
operations on it; `session` combines them for the window.
"""
