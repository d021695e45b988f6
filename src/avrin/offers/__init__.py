"""Widgets that suit a variable, ready to be placed. Knows no Qt."""
