"""Sheets match the known ones; after an intended change, redraw and view them (`known_sheets.py`)."""

from __future__ import annotations

import pytest
from known_sheets import KNOWN, SHEETS, drawn


@pytest.mark.parametrize("name", SHEETS)
def test_a_sheet_is_drawn_as_it_is_known(name: str) -> None:
    assert drawn(name) == (KNOWN / f"{name}.svg").read_text()
