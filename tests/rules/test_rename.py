"""A name given another one in rules and texts, and nothing else touched: a table worked by hand."""

from __future__ import annotations

import pytest

from avrin.rules.rename import renamed, renamed_in_template

RULES = [
    ("hull + hull_max", "hull", "h", "h + hull_max"),
    ("hull.x + x.hull", "hull", "h", "hull.x + x.hull"),
    ('if phase == "hull" then hull else 0', "hull", "h", 'if phase == "hull" then h else 0'),
    ("max(max, 2)", "max", "most", "max(most, 2)"),
    ("crew[2].scrap + crew[slot].scrap", "crew[].scrap", "crew[].haul", "crew[2].haul + crew[slot].haul"),
    ("crew[2].scrap + crew[ 2 ] . name", "crew[]", "divers[]", "divers[2].scrap + divers[ 2 ] . name"),
    ("crew[2].scrap + crew[12].scrap", "crew[2].scrap", "ona_scrap", "ona_scrap + crew[12].scrap"),
    ("crew[ 2 ].scrap + crew[slot].scrap", "crew[2].scrap", "x", "x + crew[slot].scrap"),
    ("crew[2].name", "crew[2].scrap", "x", "crew[2].name"),
    ("boat[2].scrap", "crew[2].scrap", "x", "boat[2].scrap"),
    ("ona_scrap + ona", "ona_scrap", "crew[2].scrap", "crew[2].scrap + ona"),
    ("hull + ((", "hull", "h", "h + (("),
]  # fmt: skip


@pytest.mark.parametrize(("rule", "old", "new", "expected"), RULES)
def test_a_name_in_a_rule(rule: str, old: str, new: str, expected: str) -> None:
    assert renamed(rule, old, new) == expected


TEXTS = [
    ("hull {hull | 0.0} of {hull_max}", "hull {h | 0.0} of {hull_max}"),
    ("{{hull}} {hull}", "{{hull}} {h}"),
    ('{if a then "hull}" else hull}', '{if a then "hull}" else h}'),
    ("{hull | #hull}", "{h | #hull}"),
    ("{hull", "{h"),
]


@pytest.mark.parametrize(("text", "expected"), TEXTS)
def test_a_name_in_a_text(text: str, expected: str) -> None:
    assert renamed_in_template(text, "hull", "h") == expected
