"""The card of the selection: the selected widget's inputs, rules, results and thresholds."""

from avrin.app.bind_desk.card.card import Card

__all__ = ["Card"]
