"""A project: its records, names and numbers. Knows no files, rules, traces, kinds or Qt."""
