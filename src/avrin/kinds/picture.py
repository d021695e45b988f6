"""The picture: an icon or a picture file, chosen by band."""

from collections.abc import Sequence

from msgspec import Struct

from avrin.kinds.assets import Asset, asset_file, asset_shapes, icon_name
from avrin.kinds.kind import Drawing, Kind, KindSample, TrackColumn, Wired, Wiring
from avrin.kinds.look import Colour, Look
from avrin.kinds.proportions import DrawnBox, drawn_box, own_size
from avrin.kinds.shapes import Clip, Group, Shape
from avrin.project.project import Band, Proportions
from avrin.rules.steps import Carried, Chunk, Op, Params, Step
from avrin.trace.frames import Array

__all__ = ["KIND"]


class Options(Struct, frozen=True, kw_only=True):
    """asset: shown outside all bands. by_band: shown in each band.

    proportions: of a picture file in its box. keep: as large as fits; cover: as small as fills it; own: its own pixels;
    stretch: the box's. auto: kept if they match the box within 2 %, otherwise stretched.
    """

    asset: Asset = "anchor"
    by_band: dict[str, Asset] = {}
    proportions: Proportions = "auto"


class PictureLook(Look, frozen=True, kw_only=True):
    """tint: an icon's colour, or the colour a picture is multiplied by."""

    tint: Colour = ""


def _by_band(out: Array, args: Sequence[Array], params: Params, chunk: Chunk, _state: Carried) -> None:
    usual, table = params
    words = chunk.words
    out[...] = words.code(usual)
    for band, asset in table:
        out[args[0] == words.code(band)] = words.code(asset)


ASSET = Op("asset by band", _by_band)


def wire(w: Wiring) -> Wired:
    """Track: asset."""
    o: Options = w.options

    def asset(band: Step) -> Step:
        return w.graph.add(ASSET, (band,), "text", (o.asset, tuple(sorted(o.by_band.items()))))

    return Wired({}, after_band={"asset": asset})


def shapes(d: Drawing) -> tuple[Shape, ...]:
    """Draw the asset in its box, with the chosen proportions."""
    o: Options = d.options
    asset = str(d.state["asset"] or "")
    file = asset_file(asset, d.folder) if asset and icon_name(asset) is None else None
    if file is None:
        return asset_shapes(asset, d.folder, 0, 0, d.width, d.height, d.look.tint)
    box = drawn_box(o.proportions, own_size(str(file)), DrawnBox(0, 0, d.width, d.height))
    drawn = asset_shapes(asset, d.folder, *box, d.look.tint)
    return (Group(drawn, clip=Clip(0, 0, d.width, d.height)),) if o.proportions == "cover" else drawn


KIND = Kind(
    name="picture", help="An icon or a picture, another one by band.", inputs=(), options=Options, look=PictureLook,
    wire=wire, shapes=shapes, columns=(TrackColumn("asset", "picture"),), names="always", fits="free", may_bleed=True,
    keyed={"by_band": ()}, whole_assets=lambda options: (options.asset, *options.by_band.values()),
    manual_sample=KindSample(
        size=(90.0, 90.0), options={"asset": "anchor", "by_band": {"low": "skull"}}, look={"tint": "#cfe8e3"},
        bands=(Band(name="low", when="hull < 35"),),
    ),
    test_sample=KindSample(size=(300.0, 60.0), options={"asset": "anchor"}, look={"tint": "#cfe8e3"}),
)  # fmt: skip
