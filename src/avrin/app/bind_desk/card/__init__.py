"""The card of the selection: the selected widget's inputs, rules, results and thresholds."""
