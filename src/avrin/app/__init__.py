"""The desktop application: Qt Widgets over everything below. The only package that knows Qt."""

import builtins

import PySide6.QtCore  # noqa: F401  # puts an import of its own in the place of Python's

# The toolkit's import looks through the source of every module for a switch that nobody uses here: Python's is put back
# before the first of our modules is loaded.
builtins.__import__ = getattr(builtins, "__orig_import__", builtins.__import__)
