"""Format numbers: Unicode LDML number patterns (`#,##0.0`) and durations (`m:ss`), with their rounding.

Formatting has two steps, so that a recording of 200,000 frames formats each distinct text once: `keys` rounds
all values to units of the last shown digit, `written` formats one such key. Rounding uses the
shortest decimal that parses back to the same float: 2.675 is halfway between 2.67 and 2.68.
"""

from __future__ import annotations

import functools
import math
import re
from collections.abc import Sequence
from decimal import ROUND_CEILING, ROUND_FLOOR, ROUND_HALF_EVEN, Context, Decimal, localcontext
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from avrin.errors import AvrinError
from avrin.rules.language import locale_of, signs
from avrin.storage.cache import code_stamp
from avrin.trace.frames import FloatArray
from avrin.trace.result_cache import ResultCache

if TYPE_CHECKING:  # a slow import that most numbers do not need
    from babel import Locale
    from babel.numbers import NumberPattern

__all__ = ["PLAIN", "Pattern", "pattern"]

ALL_DIGITS = Context(prec=400)  # the largest float has 309 digits before the point
ROUNDINGS = {"near": ROUND_HALF_EVEN, "up": ROUND_CEILING, "down": ROUND_FLOOR}
MOST_DECIMALS = 15


class Pattern(Struct, frozen=True):
    """A pattern. source: as written, "" for none. decimals: digits shown after the point (of seconds in a duration).

    kind: "plain" (no pattern: at most `decimals`, no trailing zeros), "number" (LDML) or "duration".
    language: whose number signs are used, "" for English.
    """

    source: str
    kind: str
    decimals: int
    rounding: str = "near"
    language: str = ""

    def keys(self, values: FloatArray) -> FloatArray:
        """Return values rounded to units of the last shown digit, NaN if missing; same shape."""
        scaled = values * 10.0**self.decimals
        if self.kind == "duration" and self.decimals == 0 and "s" not in self.source:
            scaled = values / 60.0
        rounded = {"near": np.rint, "up": np.ceil, "down": np.floor}[self.rounding](scaled)
        # Scaling is inexact: values close to a rounding boundary are rounded again in decimal.
        with np.errstate(invalid="ignore"):  # infinities are near no boundary
            close = self._near_a_turn(values, scaled)
        for i in np.flatnonzero(close):
            rounded[i] = float(self._exact(float(values[i])))
        return np.asarray(rounded + 0.0)  # -0 becomes 0

    def _near_a_turn(self, values: FloatArray, scaled: FloatArray) -> NDArray[np.bool_]:
        """Return where rounding `scaled` may differ from rounding the decimal of `values`."""
        turn = np.abs(scaled - np.floor(scaled) - 0.5) if self.rounding == "near" else np.abs(scaled - np.rint(scaled))
        near: NDArray[np.bool_] = turn < 1e-6 * np.maximum(1.0, np.abs(scaled) * 1e-6)
        close: NDArray[np.bool_] = np.logical_and(near, values != np.rint(values))
        return close

    def _exact(self, value: float) -> Decimal:
        with localcontext(ALL_DIGITS):
            scaled = Decimal(repr(value)).scaleb(self.decimals)
            if self.kind == "duration" and "s" not in self.source:
                scaled = scaled / 60
            return scaled.quantize(Decimal(1), rounding=ROUNDINGS[self.rounding])

    def written(self, key: float) -> str:
        """Return the text of one key. Infinities, which no pattern covers, become ∞."""
        if self.language and self.kind == "number" and np.isfinite(key):
            return self._by_the_library(int(key), locale_of(self.language) or _english())
        text = self._written(key)
        return text.translate(signs(self.language)) if self.language else text

    def _written(self, key: float) -> str:
        if not np.isfinite(key):
            return "∞" if key > 0 else "-∞"
        units = int(key)
        if (simple := SIMPLE.fullmatch(self.source)) is not None:
            return _simple(units, self.decimals, "," if simple[1] else "")
        if self.kind == "duration":
            return _duration(self.source, units, self.decimals)
        if self.kind == "plain":
            text = f"{Decimal(units).scaleb(-self.decimals, ALL_DIGITS):f}"
            return text.rstrip("0").rstrip(".") if "." in text else text
        return self._by_the_library(units, _english())

    def _by_the_library(self, units: int, locale: Locale) -> str:
        exact = Decimal(units).scaleb(-self.decimals, ALL_DIGITS)
        name = f"{self.source}\n{exact}\n{self.language}"
        if (known := _texts().get(name)) is not None:
            return known
        with localcontext(ALL_DIGITS):
            return _texts().put(name, str(_ldml(self.source).apply(exact, locale, decimal_quantization=True)))

    def all_written(self, keys: Sequence[float]) -> list[str]:
        """Return the texts of many keys."""
        simple = SIMPLE.fullmatch(self.source)
        if simple is None or self.language:
            return [self.written(key) for key in keys]
        comma, decimals, isfinite = "," if simple[1] else "", self.decimals, math.isfinite
        return [_simple(int(key), decimals, comma) if isfinite(key) else self.written(key) for key in keys]


# The most common patterns are formatted here, twenty times faster than by the library, with the same result.
SIMPLE = re.compile(r"(#,##)?0(?:\.0+)?")


def _simple(units: int, decimals: int, comma: str) -> str:
    if not decimals:
        return f"{units:{comma}}"
    whole, part = divmod(abs(units), 10**decimals)
    return f"{'-' if units < 0 else ''}{whole:{comma}}.{part:0{decimals}d}"


PLAIN = Pattern("", "plain", 2)


@functools.lru_cache(maxsize=512)
def pattern(source: str) -> Pattern:
    """Parse a pattern such as `0.0`, `#,##0`, `m:ss, up`. Raises AvrinError if it is invalid."""
    shape, _, rounding = source.rpartition(",")
    rounding = rounding.strip()
    if rounding in ROUNDINGS and shape:
        shape = shape.strip()
    else:
        shape, rounding = source.strip(), "near"
    if not shape:
        return Pattern("", "plain", PLAIN.decimals, rounding)
    if re.search(r"[0#@]", shape):
        return _number_pattern(shape, rounding)
    return _duration_pattern(shape, rounding)


@functools.lru_cache(maxsize=512)
def _ldml(shape: str) -> NumberPattern:
    from babel.numbers import parse_pattern  # late: 6 ms

    return parse_pattern(shape)


@functools.cache
def _english() -> Locale:
    from babel import Locale  # late: 2 ms

    return Locale("en")


@functools.cache
def _texts() -> ResultCache[str]:
    """Return the cache of numbers formatted by the library."""
    return ResultCache("numbers", code_stamp("rules/patterns.py", "rules/language.py"), str)


@functools.cache
def _decimals() -> ResultCache[int]:
    """Return the cache of the decimals of each pattern the library could parse."""
    return ResultCache("patterns", code_stamp("rules/patterns.py"), int)


def _number_pattern(shape: str, rounding: str) -> Pattern:
    if (known := _decimals().get(shape)) is not None:
        return Pattern(shape, "number", known, rounding)
    try:
        parsed = _ldml(shape)
        decimals = int(parsed.frac_prec[1]) + int(parsed.scale)
        if "@" in shape or "E" in shape or shape.count(".") > 1 or decimals > MOST_DECIMALS:
            raise ValueError(shape)
        parsed.apply(Decimal(0), "en")
    except Exception as error:  # the library has no exception of its own for invalid patterns
        raise AvrinError(
            f"`{shape}` is not a number pattern", advice="Write for example 0, 0.0, #,##0 or 0%"
        ) from error
    return Pattern(shape, "number", _decimals().put(shape, decimals), rounding)


DURATION = re.compile(r"(?:h+|m{1,2}|s{1,2}|S{1,3}|'[^']*'|[^A-Za-z'])+")


def _duration_pattern(shape: str, rounding: str) -> Pattern:
    fields = re.findall(r"h+|m+|s+|S+", re.sub(r"'[^']*'", "", shape))
    order = "".join(field[0] for field in fields)
    if (
        not fields
        or not DURATION.fullmatch(shape)
        or order not in ("h", "hm", "hms", "hmsS", "m", "ms", "msS", "s", "sS")
    ):
        raise AvrinError(
            f"`{shape}` is not a pattern", advice="A number is written like 0.0 or #,##0, a duration like m:ss or s.S"
        )
    if order in ("h", "hm"):
        raise AvrinError(f"`{shape}` shows no seconds or minutes alone", advice="Write h:mm:ss, m:ss, m or s.S")
    return Pattern(shape, "duration", len(fields[-1]) if order.endswith("S") else 0, rounding)


def _duration(shape: str, units: int, decimals: int) -> str:
    sign, units = ("-" if units < 0 else ""), abs(units)
    if "s" in shape:
        whole, part = divmod(units, 10**decimals)
    else:
        whole, part = units * 60, 0
    hours, rest = divmod(whole, 3600) if "h" in shape else (0, whole)
    minutes, seconds = divmod(rest, 60) if "m" in shape else (0, rest)
    values = {"h": hours, "m": minutes, "s": seconds}

    def fill(match: re.Match[str]) -> str:
        field = match[0]
        if field[0] == "'":
            return field[1:-1]
        return f"{part:0{decimals}d}" if field[0] == "S" else f"{values[field[0]]:0{len(field)}d}"

    return sign + re.sub(r"'[^']*'|h+|m+|s+|S+", fill, shape)
