"""The HUD on every screen, plate, colour vision and size at once. Knows no Qt."""

from avrin.screens.axes import AXES, FULL, NO_PLATE, Axis, Cell, Grid, grid, judged_as, usual_cell
from avrin.screens.distance import DISTANCE, distance_shapes
from avrin.screens.sheet import FIGURES, CellSheet, cell_shapes, cells_laid_out, screens_sheet
from avrin.screens.spoken import Spoken

__all__ = [
    "AXES",
    "DISTANCE",
    "FIGURES",
    "FULL",
    "NO_PLATE",
    "Axis",
    "Cell",
    "CellSheet",
    "Grid",
    "Spoken",
    "cell_shapes",
    "cells_laid_out",
    "distance_shapes",
    "grid",
    "judged_as",
    "screens_sheet",
    "usual_cell",
]
