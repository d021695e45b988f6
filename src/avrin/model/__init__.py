"""What a project is: its values, its file, its history. Knows no rules, traces, widgets or Qt."""

from avrin.model.assets import FONT, PICTURE, FileSort, take_in
from avrin.model.errors import AvrinError, nearest
from avrin.model.faults import Steps, first_fault
from avrin.model.files import check_name, dumps, inside, load, loads, save, schema, write
from avrin.model.folders import cache_folder, folder_for, rescue_file, state_folder
from avrin.model.history import History
from avrin.model.names import told_apart
from avrin.model.project import (
    FORMAT,
    Action,
    Anchor,
    Band,
    Change,
    Derived,
    EventKind,
    Fit,
    Follow,
    Group,
    Json,
    Place,
    Plate,
    Project,
    Recording,
    Roster,
    Screen,
    Variable,
    VariableType,
    Widget,
)
from avrin.model.reading import plain_file, read_whole
from avrin.model.words import JOINING_WORDS, MOMENT_WORDS, VALUE_WORDS

__all__ = [
    "FONT",
    "FORMAT",
    "JOINING_WORDS",
    "MOMENT_WORDS",
    "PICTURE",
    "VALUE_WORDS",
    "Action",
    "Anchor",
    "AvrinError",
    "Band",
    "Change",
    "Derived",
    "EventKind",
    "FileSort",
    "Fit",
    "Follow",
    "Group",
    "History",
    "Json",
    "Place",
    "Plate",
    "Project",
    "Recording",
    "Roster",
    "Screen",
    "Steps",
    "Variable",
    "VariableType",
    "Widget",
    "cache_folder",
    "check_name",
    "dumps",
    "first_fault",
    "folder_for",
    "inside",
    "load",
    "loads",
    "nearest",
    "plain_file",
    "read_whole",
    "rescue_file",
    "save",
    "schema",
    "state_folder",
    "take_in",
    "told_apart",
    "write",
]
