"""Installed fonts, by fontconfig. Without that library there are none."""

from __future__ import annotations

import ctypes
import functools
from ctypes import CDLL, POINTER, byref, c_char_p, c_int, c_void_p
from typing import Any, NamedTuple

__all__ = ["Installed", "families", "installed"]

REGULAR, BOLD = 80, 200  # fontconfig's weights
INDEX_MASK = 0xFFFF  # a font's index in its file; the higher bits number instances of a variable font
UNSURE, MATCHED = 1, 0


class Installed(NamedTuple):
    """An installed font. number: its index in the file."""

    file: str
    number: int


class _Set(ctypes.Structure):
    _fields_ = (("count", c_int), ("room", c_int), ("fonts", POINTER(c_void_p)))


@functools.cache
def _library() -> tuple[Any, int] | None:
    """Return fontconfig and its configuration, or None if it is not installed."""
    try:
        fc = ctypes.CDLL("libfontconfig.so.1")
    except OSError:
        return None
    for name in ("FcInitLoadConfigAndFonts", "FcPatternCreate", "FcFontMatch", "FcObjectSetCreate"):
        getattr(fc, name).restype = c_void_p
    fc.FcFontList.restype = POINTER(_Set)
    fc.FcObjectSetAdd.argtypes = [c_void_p, c_char_p]
    fc.FcFontList.argtypes = [c_void_p, c_void_p, c_void_p]
    fc.FcFontMatch.argtypes = [c_void_p, c_void_p, POINTER(c_int)]
    fc.FcPatternAddString.argtypes = [c_void_p, c_char_p, c_char_p]
    fc.FcPatternAddInteger.argtypes = [c_void_p, c_char_p, c_int]
    fc.FcPatternAddBool.argtypes = [c_void_p, c_char_p, c_int]
    fc.FcPatternGetString.argtypes = [c_void_p, c_char_p, c_int, POINTER(c_char_p)]
    fc.FcPatternGetInteger.argtypes = [c_void_p, c_char_p, c_int, POINTER(c_int)]
    fc.FcConfigSubstitute.argtypes = [c_void_p, c_void_p, c_int]
    for name in ("FcDefaultSubstitute", "FcPatternDestroy", "FcObjectSetDestroy", "FcFontSetDestroy"):
        getattr(fc, name).argtypes = [c_void_p]
    config = fc.FcInitLoadConfigAndFonts()
    return (fc, config) if config else None


def _strings(fc: CDLL, font: int, key: bytes) -> list[str]:
    """Return all values a font has for a key."""
    value = c_char_p()
    found: list[str] = []
    while fc.FcPatternGetString(font, key, len(found), byref(value)) == MATCHED:
        found.append((value.value or b"").decode("utf-8", "replace"))
    return found


@functools.cache
def families() -> tuple[str, ...]:
    """Return the names of all installed outline families, sorted."""
    known = _library()
    if known is None:
        return ()
    fc, config = known
    wanted, keys = fc.FcPatternCreate(), fc.FcObjectSetCreate()
    fc.FcPatternAddBool(wanted, b"outline", 1)
    fc.FcObjectSetAdd(keys, b"family")
    listed = fc.FcFontList(config, wanted, keys)
    fonts = listed.contents
    names = {name for i in range(fonts.count) for name in _strings(fc, fonts.fonts[i], b"family")[:1]}
    fc.FcFontSetDestroy(listed)
    fc.FcObjectSetDestroy(keys)
    fc.FcPatternDestroy(wanted)
    return tuple(sorted(names, key=str.casefold))


@functools.lru_cache(maxsize=256)
def installed(family: str, *, bold: bool) -> Installed | None:
    """Return a family's font at a weight; None if the family is not installed: a substitute is not accepted."""
    known = _library()
    if known is None:
        return None
    fc, config = known
    wanted = fc.FcPatternCreate()
    fc.FcPatternAddString(wanted, b"family", family.encode())
    fc.FcPatternAddInteger(wanted, b"weight", BOLD if bold else REGULAR)
    fc.FcPatternAddBool(wanted, b"outline", 1)
    fc.FcConfigSubstitute(config, wanted, 0)
    fc.FcDefaultSubstitute(wanted)
    best = fc.FcFontMatch(config, wanted, byref(c_int(UNSURE)))
    fc.FcPatternDestroy(wanted)
    if not best:
        return None
    named = [name.casefold() for name in _strings(fc, best, b"family")]
    files = _strings(fc, best, b"file")
    index = c_int(0)
    fc.FcPatternGetInteger(best, b"index", 0, byref(index))
    fc.FcPatternDestroy(best)
    return Installed(files[0], index.value & INDEX_MASK) if family.casefold() in named and files else None
