"""The functions of the rule language."""
