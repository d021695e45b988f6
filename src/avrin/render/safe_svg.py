"""SVG made safe: an allowlist of what a still picture is made of, within bounds of depth and of what it draws."""

from __future__ import annotations

import re
from xml.etree import ElementTree

import defusedxml.ElementTree as Hardened
from defusedxml import DefusedXmlException

from avrin.model import AvrinError

__all__ = ["clean"]

DEEPEST = 200  # elements within one another
MOST_ELEMENTS = 20_000  # that are drawn, each as often as it is used
SVG = "http://www.w3.org/2000/svg"
LINK = "http://www.w3.org/1999/xlink"
# What a still picture is made of. All else is left out: whatever runs, plays, answers a hand or brings something in.
DRAWN = frozenset({
    "svg", "g", "defs", "symbol", "use", "title", "desc", "style", "switch", "view", "path", "rect", "circle",
    "ellipse", "line", "polyline", "polygon", "text", "tspan", "textPath", "image", "linearGradient",
    "radialGradient", "stop", "pattern", "clipPath", "mask", "marker", "filter", "feBlend", "feColorMatrix",
    "feComponentTransfer", "feComposite", "feConvolveMatrix", "feDiffuseLighting", "feDisplacementMap",
    "feDistantLight", "feDropShadow", "feFlood", "feFuncA", "feFuncB", "feFuncG", "feFuncR", "feGaussianBlur",
    "feImage", "feMerge", "feMergeNode", "feMorphology", "feOffset", "fePointLight", "feSpecularLighting",
    "feSpotLight", "feTile", "feTurbulence",
})  # fmt: skip
INSIDE = re.compile(r"#|data:image/(png|jpeg|gif|webp)[;,]", re.IGNORECASE)  # what a reference may lead to
URL = re.compile(r"url\(\s*['\"]?\s*([^)'\"]*)", re.IGNORECASE)
ElementTree.register_namespace("", SVG)
ElementTree.register_namespace("xlink", LINK)


def clean(content: bytes) -> bytes:
    """An SVG without all that a still picture has no need of. Raises AvrinError where it is none, or too much."""
    root = _parsed(content)
    if root.tag != f"{{{SVG}}}svg":
        raise AvrinError("is no SVG: its outermost element is another")
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
        # The library's own frame holds on to it, and it to whoever asked, painters too, until rubbish is looked for.
        error.__traceback__ = None
        raise AvrinError(f"is no XML that can be read ({error})") from None
    except DefusedXmlException:
        raise AvrinError("declares entities of its own") from None
    except (ValueError, LookupError):
        raise AvrinError("is written in an encoding other than UTF-8") from None
    return root


def _measure(root: ElementTree.Element) -> None:
    """Raises AvrinError where it nests too deep, or draws too much, each element as often as it is used."""
    waiting = [(root, 1)]
    named: dict[str, ElementTree.Element] = {}
    order: list[ElementTree.Element] = []
    while waiting:
        element, depth = waiting.pop()
        if depth > DEEPEST:
            raise AvrinError(f"has more than {DEEPEST} elements within one another")
        order.append(element)
        if ident := element.get("id"):
            named.setdefault(ident, element)
        waiting += [(child, depth + 1) for child in element]
    drawn: dict[ElementTree.Element, int] = {}
    for element in reversed(order):  # children before what they lie in
        _count(element, named, drawn)
    if drawn[root] > MOST_ELEMENTS:
        raise AvrinError(f"draws more than {MOST_ELEMENTS:,} elements")


def _count(
    start: ElementTree.Element, named: dict[str, ElementTree.Element], drawn: dict[ElementTree.Element, int]
) -> None:
    """How many elements are drawn for one, what it refers to included."""
    path: dict[ElementTree.Element, None] = {}
    waiting = [start]
    while waiting:
        element = waiting[-1]
        if element in drawn:
            waiting.pop()
            continue
        path[element] = None
        parts = [*element, *(named[ident] for ident in _references(element) if ident in named)]
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
    """The ids of what an element is drawn with: what it uses, fills with, clips by."""
    values = [element.get("href", ""), element.get(f"{{{LINK}}}href", "")]
    found = [value.strip()[1:] for value in values if value.strip().startswith("#")]
    for value in element.attrib.values():
        found += [url.strip()[1:] for url in URL.findall(value) if url.strip().startswith("#")]
    return found


def _is_barred(element: ElementTree.Element) -> bool:
    """Whether an element is none that a still picture is made of, or refers to something outside it."""
    if not isinstance(element.tag, str) or not element.tag.startswith(f"{{{SVG}}}"):
        return True
    links = (element.get("href"), element.get(f"{{{LINK}}}href"))
    outside = any(link is not None and not INSIDE.match(link.strip()) for link in links)
    return outside or element.tag.rpartition("}")[2] not in DRAWN


def _is_harmless(name: str, value: str) -> bool:
    """Whether an attribute runs nothing and refers to nothing outside."""
    space, _, bare = name.rpartition("}")
    known = space in ("", f"{{{LINK}") or bare == "space"
    return known and not bare.lower().startswith("on") and _stays_inside(value)


def _stays_inside(words: str) -> bool:
    """Whether style refers to nothing outside the picture; what is written with escapes is not looked into."""
    if "\\" in words or "@import" in words.lower():
        return False
    return all(INSIDE.match(url.strip()) for url in URL.findall(words))
