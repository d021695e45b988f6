"""The kinds of widgets there are. A new kind is one module here and one entry below."""

from __future__ import annotations

from avrin.widgets import bar, counter, label
from avrin.widgets.kind import Kind

__all__ = ["KINDS"]

KINDS: dict[str, Kind] = {module.KIND.name: module.KIND for module in (bar, counter, label)}
