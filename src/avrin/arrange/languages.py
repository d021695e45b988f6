"""How a project is written in its languages: added, changed, taken away. What it says in them stands in catalogues."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.model import AvrinError, Locale, Project

__all__ = ["language_added", "language_removed", "language_written"]


def language_added(project: Project, code: str) -> Project:
    """The project with one more language. Raises AvrinError for what no catalogue is named, or is there already."""
    plain = code.strip()
    if not plain or not plain[0].isalpha() or not all(c.isascii() and (c.isalnum() or c in "-_") for c in plain):
        raise AvrinError(f"'{plain}' is no language", advice="Write it as catalogues are named: de, pt_BR, zh_Hant")
    if any(one.code.lower() == plain.lower() for one in project.languages):
        raise AvrinError(f"there is a language '{plain}' already", advice="Choose it in the list")
    return replace(project, languages=(*project.languages, Locale(code=plain)))


def language_removed(project: Project, code: str) -> Project:
    """The project that says nothing more of a language; its catalogue stays where it is."""
    return replace(project, languages=tuple(one for one in project.languages if one.code != code))


def language_written(project: Project, code: str, *, font: str | None = None, mirror: bool | None = None) -> Project:
    """The project in which a language has another font for what a look's own lacks, or stands the other way round."""
    known = next((one for one in project.languages if one.code == code), Locale(code=code))
    made = replace(
        known, font=known.font if font is None else font.strip(), mirror=known.mirror if mirror is None else mirror
    )
    others = [one for one in project.languages if one.code != code]
    at = next((i for i, one in enumerate(project.languages) if one.code == code), len(others))
    return replace(project, languages=(*others[:at], made, *others[at:]))
