"""Perception: bands with similar colours, fast flashing, missing assets."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from avrin.binding.bound import BoundWidget
from avrin.binding.used_files import drawn_with, in_texts_of
from avrin.errors import AvrinError
from avrin.findings.case import Case, below
from avrin.findings.finding import Check, Finding
from avrin.findings.fixes import fix_widget
from avrin.kinds.assets import asset_file
from avrin.kinds.icons import ICONS
from avrin.kinds.look import Look, seconds
from avrin.project.project import Widget
from avrin.render.artwork import refusal
from avrin.render.colour import VISIONS, delta_e, parsed, seen_by
from avrin.render.fonts import typeface
from avrin.render.pixels import undrawable
from avrin.rules.steps import Step
from avrin.storage.files import inside
from avrin.video.open_video import refusal_of

__all__ = ["CHECKS"]

ALIKE = 10.0  # colour difference (ΔE) below which two colours look alike at a glance
FASTEST = 1 / 3  # seconds: WCAG 2.2, "three flashes or below threshold"


# -- bands -------------------------------------------------------------------------------------------------------------


def _colours(look: Look) -> dict[str, str]:
    values = {name: getattr(look, name) for name in look.__struct_fields__}
    return {k: v for k, v in values.items() if isinstance(v, str) and len(v) in (7, 9) and v.startswith("#")}


def _other(look: Look) -> dict[str, Any]:
    """Return what distinguishes looks besides colour: sizes, assets, flashing."""
    return {name: getattr(look, name) for name in look.__struct_fields__ if name not in _colours(look)}


def _confusing_vision(first: Look, second: Look) -> str:
    """Return a colour vision with which two looks are alike, or ""."""
    if _other(first) != _other(second):
        return ""
    mine, yours = _colours(first), _colours(second)
    pairs = [(parsed(mine[k])[0], parsed(yours[k])[0]) for k in mine if k in yours and mine[k] != yours[k]]
    for vision in VISIONS:
        if all(float(delta_e(seen_by(a, vision), seen_by(b, vision))) < ALIKE for a, b in pairs):
            return vision
    return ""


def _bands_alike(_case: Case, widget: BoundWidget) -> Iterator[Finding]:
    names = [band.name for band in widget.widget.bands]
    for i, name in enumerate(names):
        for other in names[i + 1 :]:
            if widget.looks[name] == widget.looks[other]:
                continue  # reported as a band that changes nothing
            if vision := _confusing_vision(widget.looks[name], widget.looks[other]):
                eyes = "" if vision == "full colour" else f" with {vision}"
                yield Finding(
                    widget.widget.id, f"{name} and {other} look alike",
                    f"{widget.widget.title}: the colours of {name} and {other} look alike{eyes}",
                    "Make them differ in brightness too, or give one an icon, a flash or a larger text",
                    about=f"{name} {other}",
                    fix=fix_widget(f"make {name} flash", widget.widget.id, partial(_with_flash, band=name, period="0.8s")),
                )  # fmt: skip


def _band_unseen(_case: Case, widget: BoundWidget) -> Iterator[Finding]:
    changing = [step for name, step in widget.columns.items() if name not in ("visible", "band")]
    for band in widget.widget.bands:
        if widget.looks[band.name] == widget.looks[""] and not any(_depends(step, widget) for step in changing):
            yield Finding(
                widget.widget.id, f"{band.name} changes nothing",
                f"{widget.widget.title} looks the same when it is {band.name} as when it is not",
                f"Give {band.name} a look of its own", about=band.name,
            )  # fmt: skip


def _depends(step: Step, widget: BoundWidget) -> bool:
    return any(one is widget.columns["band"] for one in below(step))


def _with_flash(widget: Widget, band: str, period: str) -> Widget:
    """Return the widget with a band's flashing changed; "" is what applies outside all bands."""
    look = dict(widget.look)
    if not band:
        return replace(widget, look={**look, "flash": period})
    bands = {**look.get("bands", {}), band: {**look.get("bands", {}).get(band, {}), "flash": period}}
    return replace(widget, look={**look, "bands": bands})


def _flashes_fast(_case: Case, widget: BoundWidget) -> Iterator[Finding]:
    for band, look in widget.looks.items():
        period = seconds(look.flash)
        if 0 < period < FASTEST - 1e-9:
            yield Finding(
                widget.widget.id, f"flashes {1 / period:.1f} times a second",
                f"{widget.widget.title} flashes {1 / period:.1f} times a second{f' when it is {band}' if band else ''}:"
                " more than three can bring on seizures",
                "Flash every 0.4s or slower", about=band or "look",
                fix=fix_widget("flash every 0.5s", widget.widget.id, partial(_with_flash, band=band, period="0.5s")),
            )  # fmt: skip
    for step in (widget.columns["visible"], widget.drawn["opacity"]):
        for one in below(step):
            period = (
                float(one.args[0].constant[0]) if one.op.name == "blink" and one.args[0].constant is not None else 0.0
            )
            if 0 < period < FASTEST - 1e-9:
                yield Finding(
                    widget.widget.id, f"blinks {1 / period:.1f} times a second",
                    f"{widget.widget.title} blinks {1 / period:.1f} times a second: more than three can bring on seizures",
                    "Blink every 0.4s or slower", about="blink",
                )  # fmt: skip
                return


# -- assets ------------------------------------------------------------------------------------------------------------


def _refused(path: Path | None, size: tuple[float, float]) -> str:
    """Return why a picture cannot be drawn at a size in pixels, or ""."""
    if path is None or not path.exists():
        return NOT_THERE
    width, height = (
        min(MOST_SIDE, max(1, round(side / 2))) for side in size
    )  # half the size is enough, in a quarter of the time
    return refusal(str(path)) or undrawable(str(path), width, height)


def _asset_missing(case: Case) -> Iterator[Finding]:
    for plate in case.project.plates:
        named, sort = plate.film or plate.picture, "film" if plate.film else "picture"
        try:
            path = inside(case.bound.folder, named)
            why = refusal_of(path, plate.rate) if plate.film else _refused(path, case.project.reference)
        except AvrinError:
            why = "is outside the project's folder"
        if why:
            yield Finding(
                "", f"no {named}", f"The plate {plate.name} has no {sort}: {named} {why}",
                f"{'Put the file there' if why == NOT_THERE else 'Save it again'}, or remove the plate", about=named,
                plate=plate.name,
            )  # fmt: skip
    in_texts = in_texts_of(case.project)
    for ident, widget in case.bound.widgets.items():
        for name in dict.fromkeys(
            [
                *drawn_with(widget),
                *in_texts.get(ident, ()),
            ]
        ):
            sort, value = name
            if sort == "font":
                why = "" if typeface(value, case.bound.folder, bold=False, even=True) is not None else NOT_THERE
            else:
                why = "" if value in ICONS else _refused(asset_file(value, case.bound.folder), widget.widget.place.size)
            if why:
                yield Finding(
                    ident, f"no {value}", f"{widget.widget.title} draws with {value}, which {why}",
                    f"Choose another {sort}, or put the file into the project's folder", about=value,
                )  # fmt: skip


NOT_THERE = "is missing"
MOST_SIDE = 2048  # pixels at which a picture is tried
CHECKS = (
    Check("bands-alike", "warning", "The colours of two bands look alike.", widget=_bands_alike),
    Check("band-unseen", "hint", "A band does not change how its widget is drawn.", widget=_band_unseen),
    Check("flashes-fast", "error", "Something flashes more than three times a second.", widget=_flashes_fast),
    Check("asset-missing", "error", "A picture, a font or a plate file is missing.", project=_asset_missing,
          follows=(("asset-missing", "words"),)),
)  # fmt: skip
