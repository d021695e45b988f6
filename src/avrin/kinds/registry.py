"""The registry of widget kinds. A new kind is one module and one entry below."""

from __future__ import annotations

from avrin.kinds import banner, bar, button, counter, feed, label, panel, picture, pips, prompt, ring, table, timer
from avrin.kinds.kind import Kind

__all__ = ["KINDS"]

KINDS: dict[str, Kind] = {
    module.KIND.name: module.KIND
    for module in (bar, ring, pips, counter, label, timer, prompt, feed, table, banner, picture, panel, button)
}
