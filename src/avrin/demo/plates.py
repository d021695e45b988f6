"""The demo's pictures of the game: three stretches of sea floor, generated as SVG."""

from __future__ import annotations

import math
import random
from collections.abc import Callable

__all__ = ["PLATES", "boat", "far_sea", "near_ground"]

WIDTH, HEIGHT = 1920, 1080


def _svg(defs: str, body: str) -> str:
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{WIDTH}" height="{HEIGHT}" viewBox="0 0 {WIDTH} {HEIGHT}">\n'
        f"<defs>\n{defs}</defs>\n{body}</svg>\n"
    )


def _sea(*stops: str) -> str:
    """Return a gradient from the surface down."""
    marks = "".join(f'<stop offset="{i / (len(stops) - 1):.2f}" stop-color="{c}"/>' for i, c in enumerate(stops))
    return f'<linearGradient id="sea" x1="0" y1="0" x2="0" y2="1">{marks}</linearGradient>\n'


def _water() -> str:
    return f'<rect width="{WIDTH}" height="{HEIGHT}" fill="url(#sea)"/>\n'


def _rays(dice: random.Random, colour: str, count: int) -> tuple[str, str]:
    """Return shafts of light that fade on their way down."""
    defs = (
        f'<linearGradient id="ray" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="{colour}" stop-opacity="0.26"/>'
        f'<stop offset="1" stop-color="{colour}" stop-opacity="0"/></linearGradient>\n'
    )
    shafts = []
    for i in range(count):
        top = WIDTH * (i + dice.uniform(0.1, 0.9)) / count
        wide, lean = dice.uniform(40, 130), dice.uniform(-190, 60)
        deep, flare = dice.uniform(520, 900), dice.uniform(1.6, 2.8)
        points = (
            f"{top:.0f},-10 {top + wide:.0f},-10 {top + lean + wide * flare:.0f},{deep:.0f} {top + lean:.0f},{deep:.0f}"
        )
        shafts.append(f'<polygon points="{points}" fill="url(#ray)"/>\n')
    return defs, "".join(shafts)


def _ridge(dice: random.Random, level: float, rough: float, colour: str, opacity: float = 1.0) -> str:
    """Return a line of rocks across the picture."""
    x, points = -40.0, [f"-40,{HEIGHT + 20}"]
    swell = dice.uniform(0, 6.28)
    while x < WIDTH + 60:
        y = level + math.sin(x / 260 + swell) * rough * 0.7 + dice.uniform(-rough, rough) * 0.55
        points.append(f"{x:.0f},{y:.0f}")
        x += dice.uniform(26, 96)
    points.append(f"{WIDTH + 60},{HEIGHT + 20}")
    return f'<polygon points="{" ".join(points)}" fill="{colour}" fill-opacity="{opacity}"/>\n'


def _motes(dice: random.Random, colour: str, count: int, top: float, bottom: float) -> str:
    """Return bubbles and drifting specks."""
    return "".join(
        f'<circle cx="{dice.uniform(0, WIDTH):.0f}" cy="{dice.uniform(top, bottom):.0f}" r="{dice.uniform(1.2, 5.2):.1f}"'
        f' fill="{colour}" fill-opacity="{dice.uniform(0.08, 0.38):.2f}"/>\n'
        for _ in range(count)
    )


def _kelp(dice: random.Random, x: float, base: float, tall: float, colour: str) -> str:
    """Return a frond that leans with the current."""
    lean = dice.uniform(-40, 70)
    wide = dice.uniform(7, 13)
    tip = (x + lean * 1.4, base - tall)
    left = (
        f"C {x - 30:.0f} {base - tall * 0.35:.0f} {x + lean + 40:.0f} {base - tall * 0.7:.0f} {tip[0]:.0f} {tip[1]:.0f}"
    )
    right = (
        f"C {x + lean + 44:.0f} {base - tall * 0.62:.0f} {x - 8:.0f} {base - tall * 0.3:.0f} {x + wide:.0f} {base:.0f}"
    )
    leaves = ""
    for i in range(2, 8):
        share = i / 9
        cx, cy = x + lean * share * 1.1, base - tall * share
        side = 1 if i % 2 else -1
        leaves += (
            f'<path d="M {cx:.0f} {cy:.0f} q {side * 34:.0f} -8 {side * 52:.0f} -40 q {-side * 40:.0f} 6 {-side * 52:.0f} 40 z"'
            f' fill="{colour}"/>\n'
        )
    return f'<path d="M {x:.0f} {base:.0f} {left} {right} Z" fill="{colour}"/>\n{leaves}'


def _shoal(dice: random.Random, x: float, y: float, colour: str, count: int) -> str:
    """Return small fish swimming one way."""
    fish = ""
    for _ in range(count):
        cx, cy, long = x + dice.gauss(0, 96), y + dice.gauss(0, 34), dice.uniform(13, 24)
        fish += (
            f'<path d="M {cx:.0f} {cy:.0f} q {long / 2:.1f} {-long / 3:.1f} {long:.1f} 0 l {long / 3:.1f} {-long / 4:.1f}'
            f' l 0 {long / 2:.1f} l {-long / 3:.1f} {-long / 4:.1f} q {-long / 2:.1f} {long / 3:.1f} {-long:.1f} 0 z"'
            f' fill="{colour}" fill-opacity="{dice.uniform(0.35, 0.8):.2f}"/>\n'
        )
    return fish


def _boat(x: float, y: float, size: float, lamp: str) -> tuple[str, str]:
    """Return the salvage boat with its lamp, bow to the right."""
    defs = (
        f'<linearGradient id="lamp" x1="0" y1="0" x2="1" y2="0"><stop offset="0" stop-color="{lamp}" stop-opacity="0.55"/>'
        f'<stop offset="1" stop-color="{lamp}" stop-opacity="0"/></linearGradient>\n'
        '<linearGradient id="hull" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#f0bd5b"/>'
        '<stop offset="0.55" stop-color="#d99a34"/><stop offset="1" stop-color="#8f5d1d"/></linearGradient>\n'
    )
    body = f"""<g transform="translate({x:.0f} {y:.0f}) scale({size})">
<polygon points="104,-18 640,-170 640,190 104,22" fill="url(#lamp)"/>
<path d="M -150 -14 l -44 -40 l 26 0 l 40 34 z M -150 14 l -44 40 l 26 0 l 40 -34 z" fill="#8f5d1d"/>
<rect x="-30" y="-92" width="62" height="48" rx="8" fill="#b37a26"/>
<rect x="-8" y="-122" width="8" height="34" fill="#b37a26"/><rect x="-8" y="-122" width="30" height="8" rx="3" fill="#b37a26"/>
<ellipse cx="0" cy="0" rx="152" ry="64" fill="url(#hull)"/>
<path d="M -128 -26 q 128 -52 250 -8" fill="none" stroke="#ffe2a0" stroke-opacity="0.55" stroke-width="5"/>
<path d="M -146 12 h 262" stroke="#7a4f19" stroke-width="4" stroke-opacity="0.6"/>
<circle cx="-66" cy="2" r="18" fill="#14323c" stroke="#8f5d1d" stroke-width="6"/>
<circle cx="-10" cy="2" r="18" fill="#14323c" stroke="#8f5d1d" stroke-width="6"/>
<circle cx="80" cy="0" r="40" fill="#0f2a33" stroke="#fbe8c0" stroke-width="9"/>
<path d="M 58 -14 a 28 28 0 0 1 30 -12" fill="none" stroke="#bfe6ea" stroke-width="6" stroke-opacity="0.8"/>
</g>
"""
    return defs, body


def _shelf() -> str:
    dice = random.Random(3)
    rays, shafts = _rays(dice, "#d7f3ee", 8)
    lamp, boat = _boat(1010, 610, 0.9, "#fff2cf")
    body = (
        _water() + shafts + _ridge(dice, 700, 70, "#1c5563", 0.65) + _shoal(dice, 520, 470, "#bfe2df", 34)
        + _ridge(dice, 830, 90, "#123c49", 0.9) + boat + _motes(dice, "#dff5f2", 70, 60, 900)
        + "".join(_kelp(dice, x, 1100, dice.uniform(240, 470), "#0f3138") for x in (90, 170, 260, 1420, 1520, 1610, 1850))
        + _ridge(dice, 960, 64, "#0a222b")
    )  # fmt: skip
    return _svg(_sea("#3f8f96", "#256273", "#164557", "#0e2c3a") + rays + lamp, body)


def _wreck() -> str:
    dice = random.Random(8)
    rays, shafts = _rays(dice, "#e4f0c8", 6)
    lamp, boat = _boat(880, 560, 0.72, "#fff2cf")
    ribs = "".join(
        f'<path d="M {x} 960 C {x - 40} 820 {x - 26} 700 {x + 34} {600 + abs(x - 1500) * 0.34:.0f}" fill="none"'
        f' stroke="#0d2420" stroke-width="{18 - abs(x - 1500) / 60:.0f}"/>\n'
        for x in range(1180, 1860, 84)
    )
    hulk = (
        '<path d="M 1060 980 C 1100 860 1180 800 1250 790 L 1880 700 L 1960 660 L 1960 1000 Z" fill="#12302a"/>\n'
        f"{ribs}"
        '<path d="M 1500 720 L 1560 250 L 1578 250 L 1560 716 Z M 1470 372 L 1690 330 L 1690 344 L 1470 388 Z" fill="#0d2420"/>\n'
        '<path d="M 1562 262 C 1650 420 1720 560 1790 690" fill="none" stroke="#0d2420" stroke-width="4"/>\n'
    )
    body = (
        _water() + shafts + _ridge(dice, 760, 60, "#2a5a4e", 0.7) + _shoal(dice, 420, 380, "#dcebc6", 26) + hulk + boat
        + _motes(dice, "#eef6d8", 90, 40, 960)
        + "".join(_kelp(dice, x, 1100, dice.uniform(200, 380), "#0d2b25") for x in (60, 150, 700, 780, 1100))
        + _ridge(dice, 970, 54, "#0a1f1b")
    )  # fmt: skip
    return _svg(_sea("#7fa98a", "#4a7f6f", "#275348", "#12302b") + rays + lamp, body)


def _trench() -> str:
    dice = random.Random(21)
    lamp, boat = _boat(960, 540, 0.62, "#e6f0ff")
    glow = (
        '<radialGradient id="vent"><stop offset="0" stop-color="#ff9a5c" stop-opacity="0.75"/>'
        '<stop offset="1" stop-color="#ff7a3c" stop-opacity="0"/></radialGradient>\n'
    )
    vents = "".join(
        f'<ellipse cx="{x}" cy="{y}" rx="{r}" ry="{r * 0.8:.0f}" fill="url(#vent)"/>\n'
        for x, y, r in ((330, 960, 210), (1480, 990, 260), (1720, 930, 150))
    )
    walls = (
        '<path d="M -10 -10 H 300 C 250 180 330 330 240 520 C 180 660 260 830 190 1090 H -10 Z" fill="#0c1226"/>\n'
        '<path d="M 1930 -10 H 1600 C 1660 210 1560 360 1660 560 C 1730 700 1640 860 1720 1090 H 1930 Z" fill="#0c1226"/>\n'
        '<path d="M -10 -10 H 170 C 150 240 210 420 130 620 C 90 760 140 900 90 1090 H -10 Z" fill="#080c1b"/>\n'
        '<path d="M 1930 -10 H 1760 C 1790 190 1720 430 1790 640 C 1830 800 1780 900 1830 1090 H 1930 Z" fill="#080c1b"/>\n'
    )
    smoke = _motes(dice, "#ffd2a8", 60, 620, 1000) + _motes(dice, "#a9c4ff", 80, 0, 900)
    body = (
        _water()
        + _ridge(dice, 820, 110, "#18234a", 0.8)
        + vents
        + walls
        + boat
        + smoke
        + _ridge(dice, 990, 60, "#060916")
    )
    return _svg(_sea("#24386e", "#1a2752", "#111a38", "#0a1024") + glow + lamp, body)


# -- the layers of the film --------------------------------------------------------------------------------------------


def far_sea() -> str:
    """Return water, light and distant rocks, from the surface to the ground."""
    dice = random.Random(31)
    rays, shafts = _rays(dice, "#d7f3ee", 9)
    body = (
        _water() + shafts + _shoal(dice, 420, 330, "#bfe2df", 30) + _shoal(dice, 1250, 560, "#bfe2df", 26)
        + _ridge(dice, 760, 80, "#1c5563", 0.65) + _ridge(dice, 900, 60, "#164a58", 0.8)
    )  # fmt: skip
    return _svg(_sea("#58aab0", "#2f7c86", "#1d5a6b", "#113c4b", "#0b2733") + rays, body)


def near_ground() -> str:
    """Return what the boat swims past: rocks, fronds, specks; transparent where there is water."""
    dice = random.Random(47)
    body = (
        _motes(dice, "#dff5f2", 120, 40, 900)
        + "".join(_kelp(dice, x, 1080, dice.uniform(160, 380), "#0f3138") for x in range(70, 1900, 130))
        + _ridge(dice, 960, 90, "#0a222b")
    )
    return _svg("", body)


def boat() -> str:
    """Return the boat alone, its lamp to the right, in a picture of 1300 by 550."""
    defs, body = _boat(375, 275, 1.3, "#fff2cf")
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1300 550">\n<defs>\n{defs}</defs>\n{body}</svg>\n'


PLATES: dict[str, Callable[[], str]] = {"shelf": _shelf, "wreck": _wreck, "trench": _trench}
