"""Edit a project's languages. Translations themselves are in catalogues."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.errors import AvrinError
from avrin.project.project import Locale, Project

__all__ = ["language_added", "language_removed", "language_written"]


def language_added(project: Project, code: str) -> Project:
    """Return the project with one more language. Raises AvrinError for an invalid code or a duplicate."""
    plain = code.strip()
    if not plain or not plain[0].isalpha() or not all(c.isascii() and (c.isalnum() or c in "-_") for c in plain):
        raise AvrinError(
            f"'{plain}' is not a language code", advice="Write it as catalogues are named: de, pt_BR, zh_Hant"
        )
    if any(one.code.lower() == plain.lower() for one in project.languages):
        raise AvrinError(f"there is a language '{plain}' already", advice="Choose it in the list")
    return replace(project, languages=(*project.languages, Locale(code=plain)))


def language_removed(project: Project, code: str) -> Project:
    """Return the project without a language; its catalogue file remains."""
    return replace(project, languages=tuple(one for one in project.languages if one.code != code))


def language_written(project: Project, code: str, *, font: str | None = None, mirror: bool | None = None) -> Project:
    """Return the project with a language's fallback font or mirroring changed."""
    known = next((one for one in project.languages if one.code == code), Locale(code=code))
    made = replace(
        known, font=known.font if font is None else font.strip(), mirror=known.mirror if mirror is None else mirror
    )
    others = [one for one in project.languages if one.code != code]
    at = next((i for i, one in enumerate(project.languages) if one.code == code), len(others))
    return replace(project, languages=(*others[:at], made, *others[at:]))
