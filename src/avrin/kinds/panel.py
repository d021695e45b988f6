"""The panel: a plain background for other widgets."""

from msgspec import Struct

from avrin.kinds.assets import Asset, asset_shapes
from avrin.kinds.kind import Drawing, Kind, KindSample, Wired, Wiring
from avrin.kinds.look import Colour, Look, Sides, Size
from avrin.kinds.shapes import Box, NineSlice, Shape

__all__ = ["KIND"]


class Options(Struct, frozen=True, kw_only=True):
    """A panel without options."""


class PanelLook(Look, frozen=True, kw_only=True):
    """back, edge: colours. asset: a picture instead of them; slice: pixels of its border that are not stretched.

    One number for all sides, or left, top, right and bottom.
    """

    back: Colour = "#0b1a22c0"
    edge: Colour = ""
    edge_width: Size = 2.0
    radius: Size = 12.0
    asset: Asset = ""
    slice: Sides = 0.0


def wire(_w: Wiring) -> Wired:
    """Track: no columns of its own."""
    return Wired({})


def shapes(d: Drawing) -> tuple[Shape, ...]:
    """Draw the background, or its picture."""
    look: PanelLook = d.look
    if not look.asset:
        return (Box(0, 0, d.width, d.height, look.back, look.radius, look.edge, look.edge_width if look.edge else 0),)
    drawn = asset_shapes(look.asset, d.folder, 0, 0, d.width, d.height, "")
    left, top, right, bottom = look.slice if isinstance(look.slice, tuple) else (look.slice,) * 4
    border = (left, top, right, bottom)
    if any(border) and len(drawn) == 1:
        source = getattr(drawn[0], "source", "")
        return (NineSlice(0, 0, d.width, d.height, source, border),) if source else drawn
    return drawn


KIND = Kind(
    name="panel", help="A plain background for other widgets.", inputs=(), options=Options, look=PanelLook, wire=wire,
    shapes=shapes, fits="free", may_bleed=True,
    manual_sample=KindSample(size=(180.0, 90.0), look={"edge": "#dfe9e4"}), test_sample=KindSample(size=(300.0, 60.0)),
)  # fmt: skip
