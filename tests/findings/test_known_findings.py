"""Findings match the known ones; after an intended change, rewrite and read them (`known_findings.py`)."""

from __future__ import annotations

from pathlib import Path

import pytest
from known_findings import KNOWN, SORTS, written


@pytest.mark.parametrize("sort", SORTS)
def test_findings_say_what_they_are_known_to_say(sort: str, demo: Path) -> None:
    assert written(sort, demo.parent) == (KNOWN / f"{sort}.json").read_text()
