"""Some of the attacks, in every test run: what once did harm, and as many others as take a few seconds."""

from __future__ import annotations

import pytest
from attacks import ATTACKS

SOME = {"project": 8, "recording": 60, "picture": 60}  # a whole project takes half a second
KNOWN: dict[str, tuple[int, ...]] = {}


@pytest.mark.parametrize("sort", ATTACKS)
def test_whatever_is_spoilt_is_used_or_refused_in_words(sort: str) -> None:
    for seed in (*KNOWN.get(sort, ()), *range(SOME[sort])):
        ATTACKS[sort](seed)
