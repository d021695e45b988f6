"""The desktop application: Qt Widgets on top of all other packages. The only package that knows Qt."""

import builtins

import PySide6.QtCore  # noqa: F401  # puts an import of its own in the place of Python's

# PySide searches the source of every imported module for a feature switch that Avrin does not use: restore Python's own
# import before the first of our modules is loaded.
builtins.__import__ = getattr(builtins, "__orig_import__", builtins.__import__)
