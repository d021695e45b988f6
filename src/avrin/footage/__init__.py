"""Video: films of the game, and numbered pictures, decoded at given times."""

from avrin.footage.copying import MAX_WIDTH_PX, quick_copy
from avrin.footage.film import Footage, Still
from avrin.footage.numbered import numbered_name, take_in_numbered
from avrin.footage.opening import footage_files, open_footage, refusal_of
from avrin.footage.shades import CELLS, Shades, are_known, film_shades
from avrin.footage.stills import close_stills, footage_seconds, footage_size, still_file
from avrin.footage.timing import film_second

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
