"""Pictures and plates that are stretched by default."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from avrin.binding.bound import BoundWidget
from avrin.findings.case import Case
from avrin.findings.finding import Check, Finding, Fix
from avrin.kinds.assets import asset_file
from avrin.kinds.proportions import in_effect, own_size
from avrin.project.project import Project
from avrin.render.plates import plate_size

__all__ = ["CHECKS"]

MAX_NAMES = 3  # listed in the sentence


def _stretched(case: Case) -> Iterator[Finding]:
    """Yield one finding for a project made before pictures had proportions."""
    reference = case.project.reference
    plates = [
        plate.name for plate in case.project.plates
        if plate.proportions == "auto"
        and (size := plate_size(plate, case.bound.folder)) is not None and in_effect("auto", size, reference) == "stretch"
    ]  # fmt: skip
    widgets = [widget for widget in case.bound.widgets.values() if _is_stretched(case, widget)]
    names = [*plates, *(widget.widget.title for widget in widgets)]
    if not names:
        return
    listed = ", ".join(names[:MAX_NAMES]) + (f" and {len(names) - MAX_NAMES} more" if len(names) > MAX_NAMES else "")
    ids = frozenset(widget.widget.id for widget in widgets)
    yield Finding(
        next(iter(sorted(ids)), "") if not plates else "", "stretched",
        f"{listed}: drawn wider or taller than the picture", "Keep their proportions, or declare them stretched",
        about="proportions", plate=plates[0] if plates else "",
        fix=Fix("keep their proportions", lambda project: _with_proportions_kept(project, frozenset(plates), ids)),
    )  # fmt: skip


def _is_stretched(case: Case, widget: BoundWidget) -> bool:
    if not widget.kind.has_proportions or widget.options.proportions != "auto":
        return False
    assets = widget.kind.whole_assets(widget.options)
    files = [file for asset in assets if (file := asset_file(asset, case.bound.folder)) is not None]
    sizes = [size for file in files if (size := own_size(str(file))) is not None]
    return any(in_effect("auto", size, widget.widget.place.size) == "stretch" for size in sizes)


def _with_proportions_kept(project: Project, plates: frozenset[str], ids: frozenset[str]) -> Project:
    return replace(
        project,
        plates=tuple(replace(one, proportions="keep") if one.name in plates else one for one in project.plates),
        widgets=tuple(
            replace(one, options={**one.options, "proportions": "keep"}) if one.id in ids else one
            for one in project.widgets
        ),
    )


CHECKS = (
    Check("stretched", "hint", "Pictures of an older project file are stretched.", project=_stretched),
)  # fmt: skip
