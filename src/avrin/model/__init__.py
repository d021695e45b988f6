"""A project: its values, its file and its history. Knows no rules, traces, widgets or Qt."""
