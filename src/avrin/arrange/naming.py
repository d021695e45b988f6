"""Ids as people type them: of widgets, groups and bands."""

from __future__ import annotations

import re
from collections.abc import Collection

from avrin.model import AvrinError

__all__ = ["typed_id"]

IDENT = re.compile(r"[\w-]{1,80}")


def typed_id(text: str, taken: Collection[str], what: str) -> str:
    """The id that somebody typed, with _ for spaces. what: it is of. Raises AvrinError where it is none, or taken."""
    plain = re.sub(r"\s+", "_", text.strip())
    if not IDENT.fullmatch(plain):
        raise AvrinError(f"'{text}' is no name of a {what}", advice="Letters, digits, _ and -, 80 at most")
    if plain in taken:
        raise AvrinError(f"there is a {what} '{plain}' already", advice="Choose another name")
    return plain
