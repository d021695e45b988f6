"""Bind projects to rules, and evaluate them over recordings: the tracks of every widget. Knows no layout, fonts or Qt."""
