"""Values, times and levels as text for people: in the window, on sheets, in reports."""

from __future__ import annotations

from avrin.binding.bound import BoundWidget
from avrin.kinds.kind import State
from avrin.project.numbers import plain_number
from avrin.trace.frames import Value

__all__ = ["clock", "format_value", "own_value", "with_unit"]


def format_value(value: Value) -> str:
    """Return a value in words: yes and no for flags, at most two decimals, "missing" for None."""
    if value is None:
        return "missing"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, str):
        return value or "“”"
    return plain_number(value)


def own_value(widget: BoundWidget, state: State) -> str:
    """Return what a widget itself shows in a state: its text, share or count, the first of several lines; "" for nothing."""
    value = state.get(widget.kind.reading) if widget.kind.reading else None
    if value is None:
        return ""
    if isinstance(value, float):
        is_share = widget.kind.reading in widget.kind.edged("end")
        return f"{value:.0%}".replace("%", " %").replace("-", "−") if is_share else format_value(value)
    return str(value).partition("\n")[0].replace("\t", "  ").strip()


def with_unit(value: Value, unit: str) -> str:
    """Return a number with its unit."""
    return f"{format_value(value)} {unit}" if unit and isinstance(value, float) else format_value(value)


def clock(seconds: float, hundredths: bool = True) -> str:
    """Return minutes and seconds: `2:25.10`."""
    whole = round(seconds * 100) if hundredths else round(seconds) * 100
    minutes, rest = divmod(whole, 6000)
    return f"{minutes}:{rest / 100:05.2f}" if hundredths else f"{minutes}:{rest // 100:02d}"
