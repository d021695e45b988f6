"""Words of other languages lead to the right one here."""

from __future__ import annotations

import pytest

from avrin.rules.check import Scope
from avrin.rules.errors import RuleError

SCOPE = Scope({"score": "number", "player_y": "number", "hull": "number", "name": "text", "crew[0].score": "number"})


@pytest.mark.parametrize(
    ("rule", "instead", "advice"),
    [
        ("player.score", "score", ""),
        ("game.Hull", "hull", ""),
        ("player.y", "player_y", ""),
        ("hul", "hull", ""),
        ("int(hull)", "floor", "round(x) rounds"),
        ("str(hull)", "text", 'text(x, "0")'),
        ("concat(name, name)", "", "values in braces"),
        ("len(name)", "length", ""),
        ("Math.max(hull, 1)", "max", ""),
        ("maxx(hull, 1)", "max", ""),
        ("null", "", "has(x)"),
        ("hull == None", "", "has(x)"),
    ],
)
def test_a_name_from_elsewhere(rule: str, instead: str, advice: str) -> None:
    with pytest.raises(RuleError) as raised:
        SCOPE.rule(rule)
    assert raised.value.instead == instead
    assert advice in raised.value.advice


@pytest.mark.parametrize(
    ("rule", "advice"),
    [
        ("score > 1 && hull > 1", "Write `and`"),
        ("score > 1 || hull > 1", "Write `or`"),
        ("!(hull > 1)", "Write `not`"),
        ("hull = 3", "Write `==`"),
        ("hull > 1 ? 1 : 2", "Write `if condition then this else that`"),
    ],
)
def test_a_sign_from_elsewhere(rule: str, advice: str) -> None:
    with pytest.raises(RuleError) as raised:
        SCOPE.rule(rule)
    assert raised.value.advice.startswith(advice)
