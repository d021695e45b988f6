"""Files: projects, journals, drafts, caches and assets, written whole or not at all. Knows no rules, traces or Qt."""
