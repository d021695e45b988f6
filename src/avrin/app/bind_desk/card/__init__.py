"""The cause-to-effect card: what feeds the selected widget, through which rules, to what result, at which thresholds."""

from avrin.app.bind_desk.card.card import Card

__all__ = ["Card"]
