"""Sheets look as they are known to; where a change is meant, draw them anew and look at them (`known_sheets.py`)."""

from __future__ import annotations

import pytest
from known_sheets import KNOWN, SHEETS, drawn


@pytest.mark.parametrize("name", SHEETS)
def test_a_sheet_is_drawn_as_it_is_known(name: str) -> None:
    assert drawn(name) == (KNOWN / f"{name}.svg").read_text()
