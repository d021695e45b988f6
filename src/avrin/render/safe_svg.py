"""Sanitise SVG: an allowlist of elements for still pictures, with limits on depth and number of elements."""

from __future__ import annotations

import re
from xml.etree import ElementTree

import defusedxml.ElementTree as Hardened
from defusedxml import DefusedXmlException

from avrin.errors import AvrinError

__all__ = ["clean"]

DEEPEST = 200  # nested elements
MOST_ELEMENTS = 20_000  # drawn elements, each counted as often as it is used
SVG = "http://www.w3.org/2000/svg"
LINK = "http://www.w3.org/1999/xlink"
# Elements of a still picture. Everything else is removed: scripts, animation, interaction and external content.
DRAWN = frozenset({
    "svg", "g", "defs", "symbol", "use", "title", "desc", "style", "switch", "view", "path", "rect", "circle",
    "ellipse", "line", "polyline", "polygon", "text", "tspan", "textPath", "image", "linearGradient",
    "radialGradient", "stop", "pattern", "clipPath", "mask", "marker", "filter", "feBlend", "feColorMatrix",
    "feComponentTransfer", "feComposite", "feConvolveMatrix", "feDiffuseLighting", "feDisplacementMap",
    "feDistantLight", "feDropShadow", "feFlood", "feFuncA", "feFuncB", "feFuncG", "feFuncR", "feGaussianBlur",
    "feImage", "feMerge", "feMergeNode", "feMorphology", "feOffset", "fePointLight", "feSpecularLighting",
    "feSpotLight", "feTile", "feTurbulence",
})  # fmt: skip
INSIDE = re.compile(r"#|data:image/(png|jpeg|gif|webp)[;,]", re.IGNORECASE)  # allowed targets of references
URL = re.compile(r"url\(\s*['\"]?\s*([^)'\"]*)", re.IGNORECASE)
ElementTree.register_namespace("", SVG)
ElementTree.register_namespace("xlink", LINK)


def clean(content: bytes) -> bytes:
    """Return an SVG reduced to a still picture. Raises AvrinError if it is not an SVG or exceeds the limits."""
    root = _parsed(content)
    if root.tag != f"{{{SVG}}}svg":
        raise AvrinError("is not an SVG: its root element is different")
    _measure(root)
    for element in list(root.iter()):
        for child in list(element):
            if _is_barred(child):
                element.remove(child)
        for name, value in list(element.attrib.items()):
            if not _is_harmless(name, value):
                del element.attrib[name]
        if element.text and element.tag == f"{{{SVG}}}style" and not _stays_inside(element.text):
            element.text = ""
    return ElementTree.tostring(root)


def _parsed(content: bytes) -> ElementTree.Element:
    try:
        root: ElementTree.Element = Hardened.fromstring(content)
    except ElementTree.ParseError as error:
        # The library's frames refer to the callers, and so to their painters, until the next garbage collection.
        error.__traceback__ = None
        raise AvrinError(f"is not valid XML ({error})") from None
    except DefusedXmlException:
        raise AvrinError("declares entities of its own") from None
    except (ValueError, LookupError):
        raise AvrinError("is written in an encoding other than UTF-8") from None
    return root


def _measure(root: ElementTree.Element) -> None:
    """Raise AvrinError if it nests too deep or draws too many elements, each counted as often as it is used."""
    waiting = [(root, 1)]
    named: dict[str, ElementTree.Element] = {}
    order: list[ElementTree.Element] = []
    while waiting:
        element, depth = waiting.pop()
        if depth > DEEPEST:
            raise AvrinError(f"nests more than {DEEPEST} elements")
        order.append(element)
        if ident := element.get("id"):
            named.setdefault(ident, element)
        waiting += [(child, depth + 1) for child in element]
    drawn: dict[ElementTree.Element, int] = {}
    for element in reversed(order):  # children before their parents
        _count(element, named, drawn)
    if drawn[root] > MOST_ELEMENTS:
        raise AvrinError(f"draws more than {MOST_ELEMENTS:,} elements")


def _count(
    start: ElementTree.Element, by_id: dict[str, ElementTree.Element], drawn: dict[ElementTree.Element, int]
) -> None:
    """Return how many elements are drawn for one, references included."""
    path: dict[ElementTree.Element, None] = {}
    waiting = [start]
    while waiting:
        element = waiting[-1]
        if element in drawn:
            waiting.pop()
            continue
        path[element] = None
        parts = [*element, *(by_id[ident] for ident in _references(element) if ident in by_id)]
        ahead = [part for part in parts if part not in drawn]
        if any(part in path for part in ahead):
            raise AvrinError("is used within itself")
        if ahead:
            waiting += ahead[:1]
            continue
        drawn[element] = min(MOST_ELEMENTS + 1, 1 + sum(drawn[part] for part in parts))
        del path[element]
        waiting.pop()


def _references(element: ElementTree.Element) -> list[str]:
    """Return the ids an element refers to: what it uses, its fill, its clip path."""
    values = [element.get("href", ""), element.get(f"{{{LINK}}}href", "")]
    found = [value.strip()[1:] for value in values if value.strip().startswith("#")]
    for value in element.attrib.values():
        found += [url.strip()[1:] for url in URL.findall(value) if url.strip().startswith("#")]
    return found


def _is_barred(element: ElementTree.Element) -> bool:
    """Return whether an element is not allowed, or refers to external content."""
    if not isinstance(element.tag, str) or not element.tag.startswith(f"{{{SVG}}}"):
        return True
    links = (element.get("href"), element.get(f"{{{LINK}}}href"))
    outside = any(link is not None and not INSIDE.match(link.strip()) for link in links)
    return outside or element.tag.rpartition("}")[2] not in DRAWN


def _is_harmless(name: str, value: str) -> bool:
    """Return whether an attribute neither runs a script nor refers to external content."""
    space, _, bare = name.rpartition("}")
    known = space in ("", f"{{{LINK}") or bare == "space"
    return known and not bare.lower().startswith("on") and _stays_inside(value)


def _stays_inside(words: str) -> bool:
    """Return whether a style refers to nothing external; escape sequences are rejected."""
    if "\\" in words or "@import" in words.lower():
        return False
    return all(INSIDE.match(url.strip()) for url in URL.findall(words))
