"""Widgets by the handful: moved, lined up, spread, put in order, copied, grouped, called and made otherwise. Knows no Qt."""

from avrin.arrange.bands import (
    BY_BAND,
    band_coloured,
    band_first,
    band_part,
    band_put,
    band_removed,
    band_renamed,
    band_sticky,
    conditioned,
    split,
)
from avrin.arrange.clipboard import copied, duplicated, pasted
from avrin.arrange.colours import colours_of
from avrin.arrange.groups import group_changed, group_holds, group_renamed
from avrin.arrange.identity import grouped, id_like, kind_changed, renamed_widget, titled, ungrouped
from avrin.arrange.languages import language_added, language_removed, language_written
from avrin.arrange.order import STEPS, Step, ordered
from avrin.arrange.placing import WAYS, Way, aligned, in_grid, moved, only_moved, put_at, same_size, spread
from avrin.arrange.scenery import (
    SIZES,
    plate_added,
    plate_called,
    plate_removed,
    screen_added,
    screen_called,
    screen_removed,
    screen_seen,
    screen_sized,
    zones_set,
)
from avrin.arrange.styles import restyled, style_made, style_removed

__all__ = [
    "BY_BAND",
    "SIZES",
    "STEPS",
    "WAYS",
    "Step",
    "Way",
    "aligned",
    "band_coloured",
    "band_first",
    "band_part",
    "band_put",
    "band_removed",
    "band_renamed",
    "band_sticky",
    "colours_of",
    "conditioned",
    "copied",
    "duplicated",
    "group_changed",
    "group_holds",
    "group_renamed",
    "grouped",
    "id_like",
    "in_grid",
    "kind_changed",
    "language_added",
    "language_removed",
    "language_written",
    "moved",
    "only_moved",
    "ordered",
    "pasted",
    "plate_added",
    "plate_called",
    "plate_removed",
    "put_at",
    "renamed_widget",
    "restyled",
    "same_size",
    "screen_added",
    "screen_called",
    "screen_removed",
    "screen_seen",
    "screen_sized",
    "split",
    "spread",
    "style_made",
    "style_removed",
    "titled",
    "ungrouped",
    "zones_set",
]
