"""The rule language: text -> tree -> steps -> values. Knows no widgets and no Qt."""
