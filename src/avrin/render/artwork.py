"""Picture files as both painters take them: safe, of a size that can be drawn, or not at all."""

from __future__ import annotations

import functools
import re
from pathlib import Path
from xml.etree import ElementTree

from avrin.render.slices import picture_size

__all__ = ["artwork"]

MOST_PIXELS = 64_000_000  # of a PNG: what both painters, and a browser, still take
SVG = "http://www.w3.org/2000/svg"
LINK = "http://www.w3.org/1999/xlink"
RUNS = ("script", "foreignObject", "iframe", "object", "embed")  # elements that run or bring in something
OUTSIDE = re.compile(r"url\(\s*['\"]?\s*(?!#|['\"#]|data:)|@import", re.IGNORECASE)
ElementTree.register_namespace("", SVG)
ElementTree.register_namespace("xlink", LINK)


@functools.lru_cache(maxsize=64)
def artwork(source: str) -> bytes | None:
    """A picture file's content; None where it cannot be read or is too large.

    An SVG comes without scripts and without references to anything outside itself.
    """
    path = Path(source)
    try:
        content = path.read_bytes()
    except (OSError, ValueError):
        return None
    if path.suffix.lower() == ".svg":
        return _clean(content)
    if path.suffix.lower() == ".png":
        size = picture_size(source)
        return content if size is not None and 0 < size[0] * size[1] <= MOST_PIXELS else None
    return content


def _clean(content: bytes) -> bytes | None:
    import defusedxml.ElementTree as Hardened
    from defusedxml import DefusedXmlException

    try:
        root = Hardened.fromstring(content)
    except (ElementTree.ParseError, DefusedXmlException):
        return None
    if root.tag != f"{{{SVG}}}svg":
        return None
    for element in list(root.iter()):
        for child in list(element):
            if _is_barred(child):
                element.remove(child)
        for name, value in list(element.attrib.items()):
            if name.rpartition("}")[2].lower().startswith("on") or OUTSIDE.search(value):
                del element.attrib[name]
        if element.text and element.tag == f"{{{SVG}}}style" and OUTSIDE.search(element.text):
            element.text = ""
    return ElementTree.tostring(root)


def _is_barred(element: ElementTree.Element) -> bool:
    """Whether an element runs something, or refers to something outside the picture."""
    if not isinstance(element.tag, str) or element.tag.rpartition("}")[2] in RUNS:
        return True
    links = (element.get("href"), element.get(f"{{{LINK}}}href"))
    return any(link is not None and not link.lstrip().startswith(("#", "data:image/")) for link in links)
