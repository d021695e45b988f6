"""Layout, display lists, text and SVG. Knows no Qt."""

from avrin.render.appearances import Appearances, JointAppearance, appearances, joint_appearances
from avrin.render.artwork import artwork, picture_mark, refusal
from avrin.render.bidi import FROM_RIGHT
from avrin.render.bounds import bounds
from avrin.render.cells import Cells, cells_in, ink_of, usual_characters
from avrin.render.colour import EYES, picture_seen_by
from avrin.render.columns import CutCell, columns_fitted, cut_cells
from avrin.render.drawing_errors import drawing_faults, note_fault
from avrin.render.extent import Extent, beyond, declared_extent, extent
from avrin.render.fonts import MONO, SANS, SANS_BOLD, Glyph, Run, TextMeasure, face, font_of, shape, typeface
from avrin.render.installed import families
from avrin.render.layout import (
    Rect,
    anchor_point,
    minutes_of_arc,
    part_at,
    placed,
    safe_area,
    screen_fit,
    screen_scale,
)
from avrin.render.lettering import bodies, flat_shapes, texts
from avrin.render.nine_slice import is_within, nine_parts, picture_size
from avrin.render.pictures import (
    UNDER,
    Paint,
    SeenBy,
    beside_plate,
    frame_shapes,
    ground_shapes,
    hud_shapes,
    save_picture,
)
from avrin.render.pixels import undrawable
from avrin.render.plates import plate_rect, plate_size
from avrin.render.scene import Placed, drawn_widget, grips, is_drawn, scene, widget_rect, widget_shapes
from avrin.render.stage import Stage
from avrin.render.svg import svg
from avrin.render.thumbnail import changing_over, changing_part, thumbnail
from avrin.render.transitions import in_motion
from avrin.render.zones import reach_rects, touching, zone_rect, zone_rects

__all__ = [
    "EYES",
    "FROM_RIGHT",
    "MONO",
    "SANS",
    "SANS_BOLD",
    "UNDER",
    "Appearances",
    "Cells",
    "CutCell",
    "Extent",
    "Glyph",
    "JointAppearance",
    "Paint",
    "Placed",
    "Rect",
    "Run",
    "SeenBy",
    "Stage",
    "TextMeasure",
    "anchor_point",
    "appearances",
    "artwork",
    "beside_plate",
    "beyond",
    "bodies",
    "bounds",
    "cells_in",
    "changing_over",
    "changing_part",
    "columns_fitted",
    "cut_cells",
    "declared_extent",
    "drawing_faults",
    "drawn_widget",
    "extent",
    "face",
    "families",
    "flat_shapes",
    "font_of",
    "frame_shapes",
    "grips",
    "ground_shapes",
    "hud_shapes",
    "in_motion",
    "ink_of",
    "is_drawn",
    "is_within",
    "joint_appearances",
    "minutes_of_arc",
    "nine_parts",
    "note_fault",
    "part_at",
    "picture_mark",
    "picture_seen_by",
    "picture_size",
    "placed",
    "plate_rect",
    "plate_size",
    "reach_rects",
    "refusal",
    "safe_area",
    "save_picture",
    "scene",
    "screen_fit",
    "screen_scale",
    "shape",
    "svg",
    "texts",
    "thumbnail",
    "touching",
    "typeface",
    "undrawable",
    "usual_characters",
    "widget_rect",
    "widget_shapes",
    "zone_rect",
    "zone_rects",
]
