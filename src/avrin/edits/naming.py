"""Validate ids of widgets, groups and bands typed by users."""

from __future__ import annotations

import re
from collections.abc import Collection

from avrin.errors import AvrinError

__all__ = ["typed_id"]

IDENT = re.compile(r"[\w-]{1,80}")


def typed_id(text: str, taken: Collection[str], what: str) -> str:
    """Return a typed id with _ for spaces. what: for the message. Raises AvrinError if it is invalid or used."""
    plain = re.sub(r"\s+", "_", text.strip())
    if not IDENT.fullmatch(plain):
        raise AvrinError(f"'{text}' is not a valid {what} name", advice="Use up to 80 letters, digits, _ and -")
    if plain in taken:
        raise AvrinError(f"there is a {what} '{plain}' already", advice="Choose another name")
    return plain
