"""Fill in what prose says of the program itself: how many of a thing there are, and the map of the source.

A count stands between `<!-- NAME -->` and `<!-- / -->`, the map after `<!-- map -->`. Run it after adding a thing or a room.
"""

from __future__ import annotations

import ast
import re
from pathlib import Path

import grimp

from avrin.findings.registry import CHECKS
from avrin.kinds.registry import KINDS

__all__ = ["PAGES", "filled"]

ROOT = Path(__file__).parent.parent
PAGES = (ROOT / "README.md", ROOT / "docs/architecture.md")
COUNTS = {"kinds": len(KINDS), "checks": len(CHECKS)}
HEAD = "| room | modules | what it is | asks |\n|---|---:|---|---|\n"


def filled(text: str) -> str:
    """A page with its counts and its map as they are now."""
    for name, count in COUNTS.items():
        text = re.sub(rf"(<!-- {name} -->)[^<]*(<!-- / -->)", rf"\g<1>{count}\g<2>", text)
    if "<!-- map -->" in text:
        text = re.sub(r"(<!-- map -->\n).*?(<!-- / -->)", lambda m: m[1] + _map() + m[2], text, flags=re.DOTALL)
    return text


def _map() -> str:
    """Every room (a package, or one of the window's), highest first, with the rooms its modules import."""
    graph = grimp.build_graph("avrin", exclude_type_checking_imports=True, cache_dir=None)
    modules = [name for name in graph.modules if name != "avrin"]
    asks: dict[str, set[str]] = {_room(name): set() for name in modules}
    for name in modules:
        asks[_room(name)] |= {_room(other) for other in graph.find_modules_directly_imported_by(name)} - {_room(name)}
    rows = []
    for room in _highest_first(asks):
        count = sum(_room(name) == room for name in modules)
        below = ", ".join(sorted(filter(None, asks[room])))
        rows.append(f"| **{room}** | {count} | {_idea(room)} | {below} |")
    return HEAD + "".join(f"{row}\n" for row in rows)


def _room(module: str) -> str:
    parts = module.split(".")[1:]
    deep = 2 if parts[:1] == ["app"] and len(parts) > 1 else 1
    return ".".join(parts[:deep])


def _highest_first(asks: dict[str, set[str]]) -> list[str]:
    """Rooms so that each comes before what it imports; of those that could come next, the first by its name."""
    waiting, order = {room: {*below} & {*asks} for room, below in asks.items()}, []
    while waiting:
        free = min(room for room in waiting if not any(room in below for below in waiting.values()))
        order.append(free)
        del waiting[free]
    return order


def _idea(room: str) -> str:
    base = ROOT / "src/avrin" / room.replace(".", "/")
    source = base / "__init__.py" if base.is_dir() else base.with_suffix(".py")
    said = ast.get_docstring(ast.parse(source.read_text("utf-8"))) or ""
    return said.split("\n")[0].rstrip(".").replace("|", "\\|")


if __name__ == "__main__":
    for page in PAGES:
        page.write_text(filled(page.read_text("utf-8")), encoding="utf-8")
