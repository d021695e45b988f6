"""What a project is: its values, its file, its history. Knows no rules, traces, widgets or Qt."""

from avrin.model.errors import AvrinError, nearest
from avrin.model.files import dumps, inside, load, loads, save, schema
from avrin.model.folders import cache_folder, rescue_file
from avrin.model.history import History
from avrin.model.project import (
    FORMAT,
    Anchor,
    Band,
    Derived,
    Fit,
    Group,
    Place,
    Plate,
    Project,
    Roster,
    Screen,
    Variable,
    VariableType,
    Widget,
    replace,
)

__all__ = [
    "FORMAT",
    "Anchor",
    "AvrinError",
    "Band",
    "Derived",
    "Fit",
    "Group",
    "History",
    "Place",
    "Plate",
    "Project",
    "Roster",
    "Screen",
    "Variable",
    "VariableType",
    "Widget",
    "cache_folder",
    "dumps",
    "inside",
    "load",
    "loads",
    "nearest",
    "replace",
    "rescue_file",
    "save",
    "schema",
]
