"""What every kind draws, variant by variant, is what was looked at and written down."""

from __future__ import annotations

import hashlib
import json

import pytest
from known_shapes import KNOWN, SCHEMA, drawn, known_schema, variants

from avrin.kinds.registry import KINDS

TOLD = json.loads(KNOWN.read_text("utf-8"))


@pytest.mark.parametrize("name", [name for name in KINDS if name != "dial"])
def test_a_kind_draws_what_is_known(name: str) -> None:
    kind = KINDS[name]
    for title, sample in variants(kind):
        shapes = drawn(kind, sample)
        digest = hashlib.blake2b(shapes.encode(), digest_size=8).hexdigest()
        assert digest == TOLD[name][title], (
            f"{name}, {title}: run tests/kinds/known_shapes.py where it is meant\n{shapes}"
        )
    assert TOLD[name].keys() == {title for title, _ in variants(kind)}
    assert len(set(TOLD[name].values())) > 1  # options do something


def test_the_schema_says_of_every_record_what_is_known() -> None:
    """Which words, which bounds: a file that one version takes the next one takes too."""
    assert known_schema() == json.loads(SCHEMA.read_text("utf-8")), "run tests/kinds/known_shapes.py where it is meant"
