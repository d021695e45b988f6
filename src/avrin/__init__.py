"""Avrin: bind HUD widgets to gameplay variables and see how each renders across recorded play."""

__version__ = "0.1.0"
