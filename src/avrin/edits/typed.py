"""Values as people type them: "1,5", "−3", "12 %", "0.5s"."""

from __future__ import annotations

import math

from msgspec import Struct

from avrin.errors import AvrinError
from avrin.project.numbers import rule_number
from avrin.project.project import VariableType
from avrin.trace.frames import Value

__all__ = ["DISTANCE", "NUMBER", "PIXELS", "SIDE", "WHOLE", "NumberInput", "typed_value", "value_text"]

FLAGS = dict.fromkeys(("yes", "true", "1", "on"), True) | dict.fromkeys(("no", "false", "0", "off"), False)


class NumberInput(Struct, frozen=True):
    """A number that a field accepts.

    noun, example: of the message for another text. unit: a suffix that may be typed. low, high: inclusive; a number outside
    is refused, or with `clamp` set to the nearer one. empty: the value of an empty text; by default it is refused.
    """

    noun: str = "a number"
    example: str = ""
    unit: str = ""
    low: float = -math.inf
    high: float = math.inf
    clamp: bool = False
    whole: bool = False
    empty: float | None = None

    def parse(self, text: str) -> float:
        """Return the number. Raises AvrinError if the text is not one, or out of range."""
        plain = text.strip().removesuffix(self.unit).strip()
        if not plain and self.empty is not None:
            return self.empty
        try:
            number = float(plain.replace(",", ".").replace("−", "-").replace(" ", ""))
        except ValueError:
            number = math.nan
        if self.clamp:
            number = min(max(number, self.low), self.high)
        if not math.isfinite(number) or not self.low <= number <= self.high or (self.whole and number % 1):
            advice = f"Write for example {self.example}" if self.example else ""
            raise AvrinError(f"'{text.strip()}' is not {self.noun}", advice=advice)
        return number


NUMBER = NumberInput()
WHOLE = NumberInput("a whole number", "3", whole=True)
PIXELS = NumberInput("a number of pixels", "24", low=-100_000, high=100_000, clamp=True)
DISTANCE = NumberInput("a number of pixels", "24", low=0, high=100_000, clamp=True, empty=0)
SIDE = NumberInput("a number of pixels", "1920", low=1, high=100_000, whole=True)


def typed_value(text: str, type_: VariableType) -> Value:
    """Parse a value of a variable; None for an empty text. Raises AvrinError for another type."""
    text = text.strip()
    if type_ == "text":
        return text
    if not text:
        return None
    if type_ == "bool":
        if text.lower() not in FLAGS:
            raise AvrinError(f"'{text}' is neither yes nor no")
        return FLAGS[text.lower()]
    number = NUMBER.parse(text)
    return float(round(number)) if type_ == "int" else number


def value_text(value: object) -> str:
    """Return the text of a value for a field."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return rule_number(value) if isinstance(value, int | float) else str(value)
