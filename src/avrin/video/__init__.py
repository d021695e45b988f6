"""Video: films of the game, and numbered pictures, decoded at given times."""

from avrin.video.analysis import CELLS, Shades, are_known, film_shades
from avrin.video.fast_copy import MAX_WIDTH_PX, quick_copy
from avrin.video.film import Footage, Still
from avrin.video.numbered import numbered_name, take_in_numbered
from avrin.video.open_video import footage_files, open_footage, refusal_of
from avrin.video.stills import close_stills, footage_seconds, footage_size, still_file
from avrin.video.timing import film_second

__all__ = [
    "CELLS",
    "MAX_WIDTH_PX",
    "Footage",
    "Shades",
    "Still",
    "are_known",
    "close_stills",
    "film_second",
    "film_shades",
    "footage_files",
    "footage_seconds",
    "footage_size",
    "numbered_name",
    "open_footage",
    "quick_copy",
    "refusal_of",
    "still_file",
    "take_in_numbered",
]
