"""Project files: convert JSON text to `Project` and back, with the place of every error.

Unknown keys are preserved with a warning, a newer format is refused, and saving is atomic.
"""

from __future__ import annotations

import functools
import json
import re
from collections import Counter
from collections.abc import Iterable
from pathlib import Path, PurePosixPath
from typing import Any

import msgspec
from msgspec import inspect

from avrin.errors import AvrinError, nearest, reason_of
from avrin.project.project import FORMAT, NAME, Json, Project, Record, Recording, Variable, Zone
from avrin.project.reserved_words import RESERVED
from avrin.project.validation import Steps, first_fault
from avrin.storage.atomic import atomic_write
from avrin.storage.reading import read_whole

__all__ = ["as_json", "check_name", "dumps", "inside", "is_name", "load", "loads", "save", "schema", "write"]

MOST_BYTES = 64 * 2**20  # a project is text written by people; a larger file is something else
WIDTH = 120
LONGEST_NAME = 80
DEEPEST = 100  # nested braces and brackets, so that every file that opens can be saved
_NAME = re.compile(NAME)
SHORT: dict[type[Record], str] = {
    Recording: "path",
    Zone: "box",
}  # a record with only this field is written as its value


def load(path: Path) -> tuple[Project, list[str]]:
    """Load a project file.

    Returns the project and one warning per unknown key.
    Raises AvrinError, with the file's name first, if the file cannot be read or used.
    """
    content = read_whole(path, MOST_BYTES)
    try:
        return loads(content)
    except AvrinError as error:
        raise error.within(path.name) from None


def loads(data: bytes) -> tuple[Project, list[str]]:
    """Parse a project from JSON bytes, like `load`. Raises AvrinError without a file name."""
    raw = _decode(data)
    if not isinstance(raw, dict) or "format" not in raw:
        raise AvrinError(
            'is JSON but not an Avrin project: "format" is missing', advice=f'Expected "format": "{FORMAT}"'
        )
    _check_format(raw["format"])
    if _is_deeper(raw, DEEPEST):
        raise AvrinError("is nested too deeply to be a project")
    _spell_out(raw)
    unknown: list[Steps] = []
    sorted_out = _set_aside(raw, _shape(), (), unknown)
    try:
        project = msgspec.convert(sorted_out, Project)
    except msgspec.ValidationError:
        raise _explained(raw) from None
    _check(project)
    return project, [f"{_describe_path(path, raw)}: unknown key, left unchanged" for path in unknown]


def _spell_out(raw: dict[str, Json]) -> None:
    """Expand the short forms listed in `SHORT` to records."""

    def spelt(entries: Json, record: type[Record], short: type) -> Json:
        if not isinstance(entries, list):
            return entries
        return [{SHORT[record]: one} if isinstance(one, short) else one for one in entries]

    if "traces" in raw:
        raw["traces"] = spelt(raw["traces"], Recording, str)
    for plate in raw["plates"] if isinstance(raw.get("plates"), list) else ():
        if isinstance(plate, dict) and "keep_clear" in plate:
            plate["keep_clear"] = spelt(plate["keep_clear"], Zone, list)


@functools.cache
def _shape() -> inspect.Type:
    """Return the type description of a project; cached because building it takes longer than parsing a file."""
    return inspect.type_info(Project)


def dumps(project: Project) -> str:
    """Return the project as JSON text: keys in a fixed order, one line where it fits, defaults omitted."""
    return _laid_out(_plain(project), 0) + "\n"


def as_json(project: Project) -> dict[str, Json]:
    """Return the project as plain JSON values, as the file holds them: defaults omitted, unknown keys included."""
    made: dict[str, Json] = _plain(project)
    return made


def save(project: Project, path: Path) -> None:
    """Save the project atomically: the file holds the old or the new version, never a mixture.

    Raises AvrinError if the folder cannot be written.
    """
    try:
        atomic_write(path, dumps(project).encode())
    except OSError as error:
        raise AvrinError(
            f"cannot be saved ({reason_of(error)})",
            place=(str(path),),
            advice="Choose another folder; nothing was lost",
        ) from None


def write(path: Path, data: bytes) -> None:
    """Write a generated file: a report, a picture or a table.

    Raises AvrinError if that fails or the file is an input of the running command; the old content then remains.
    """
    try:
        atomic_write(path, data)
    except OSError as error:
        raise AvrinError(
            f"cannot be written ({reason_of(error)})", place=(str(path),),
            advice="Choose another folder",
        ) from None  # fmt: skip


def inside(folder: Path, name: str) -> Path:
    """Return the path of a file a project names. Raises AvrinError if it is outside the project's folder."""
    pure = PurePosixPath(name)
    if pure.is_absolute() or ".." in pure.parts or "\\" in name or "\0" in name or not name:
        raise AvrinError(f"the path '{name}' leaves the project's folder", advice="Copy the file next to the project")
    if len(name.encode()) > 4000 or any(len(part.encode()) > 255 for part in pure.parts):
        raise AvrinError("a path is too long", advice="Shorten it")
    target = folder / pure
    if not target.resolve().is_relative_to(folder.resolve()):
        raise AvrinError(f"the path '{name}' leaves the project's folder", advice="Copy the file there instead")
    return target


def is_name(text: str) -> bool:
    """Return whether a text is a valid identifier, not counting the reserved words of the rule language."""
    return _NAME.match(text) is not None and len(text) <= LONGEST_NAME


def check_name(name: str, taken: Iterable[str]) -> None:
    """Validate a new name. Raises AvrinError if it is invalid, reserved or already used."""
    if not is_name(name):
        raise AvrinError(
            f"'{name}' is not a valid name: it needs letters, digits and _, not a digit first",
            advice="Write for example air_left",
        )  # fmt: skip
    if name in RESERVED:
        raise AvrinError(f"'{name}' is a reserved word of the rule language", advice="Choose another name")
    if name in taken:
        raise AvrinError(f"the name '{name}' is taken", advice="Choose another name")


def schema() -> dict[str, Any]:
    """Return the JSON Schema of the file as far as `model` defines it."""
    made: dict[str, Any] = msgspec.json.schema(Project)
    for owner, field, record in (("Project", "traces", "Recording"), ("Plate", "keep_clear", "Zone")):
        short = made["$defs"][record]["properties"][SHORT[Recording if record == "Recording" else Zone]]
        made["$defs"][owner]["properties"][field]["items"] = {"anyOf": [short, {"$ref": f"#/$defs/{record}"}]}
    return made


def _decode(data: bytes) -> Json:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise AvrinError(f"is not UTF-8 text (byte {error.start})", advice="Open an .avrin project file") from None
    try:
        return msgspec.json.decode(text)
    except msgspec.DecodeError:
        raise _not_json(text) from None
    except RecursionError:
        raise AvrinError("is nested too deeply to be a project") from None


def _is_deeper(value: Json, most: int) -> bool:
    level = [value]
    for _ in range(most):
        level = [part for one in level for part in (one.values() if isinstance(one, dict) else one)
                 if isinstance(part, dict | list)]  # fmt: skip
        if not level:
            return False
    return True


def _not_json(text: str) -> AvrinError:
    """Locate the JSON error: the standard library reports the line, the faster parser only the problem."""
    try:
        json.loads(text)
    except json.JSONDecodeError as error:
        place = f"line {error.lineno}, column {error.colno}"
        return AvrinError(f"is not JSON: {error.msg[0].lower()}{error.msg[1:]}", place=(place,))
    except RecursionError:
        return AvrinError("is nested too deeply to be a project")
    return AvrinError("is not JSON: it contains NaN, Infinity or a lone surrogate")


def _check_format(value: object) -> None:
    if value == FORMAT:
        return
    match = re.fullmatch(r"avrin/(\d+)", value) if isinstance(value, str) else None
    if match and int(match[1]) > int(FORMAT.split("/")[1]):
        raise AvrinError(
            f"was written by a newer Avrin (format {value}; this one reads {FORMAT})", advice="Update Avrin"
        )
    raise AvrinError(f"unknown format {json.dumps(value)}", place=("format",), advice=f'Expected "{FORMAT}"')


def _set_aside(value: Json, kind: inspect.Type, path: Steps, unknown: list[Steps]) -> Json:
    """Copy raw JSON, moving the keys that `kind` does not define under "extra"."""
    if isinstance(kind, inspect.UnionType):
        kind = next((part for part in kind.types if isinstance(part, inspect.StructType)), kind)
    if isinstance(kind, inspect.StructType) and isinstance(value, dict):
        fields = {field.encode_name: field.type for field in kind.fields if field.encode_name != "extra"}
        known = {k: _set_aside(v, fields[k], (*path, k), unknown) for k, v in value.items() if k in fields}
        if extra := {key: part for key, part in value.items() if key not in fields}:
            unknown.extend((*path, key) for key in extra)
            known["extra"] = extra
        return known
    if isinstance(kind, inspect.VarTupleType) and isinstance(value, list):
        return [_set_aside(part, kind.item_type, (*path, i), unknown) for i, part in enumerate(value)]
    return value


def _describe_path(path: Steps, raw: Json) -> str:
    """Describe a path of keys and indexes: ("widgets", 0, "place") gives "widget 'hull_bar', place"."""
    words: list[str] = []
    for step in path:
        if isinstance(step, str):
            raw = raw.get(step) if isinstance(raw, dict) else None
            words.append(step)
            continue
        raw = raw[step] if isinstance(raw, list) and step < len(raw) else None
        named = next((str(raw[key]) for key in ("id", "name") if key in raw), None) if isinstance(raw, dict) else None
        part = words.pop() if words else "item"
        single = part if part == "derived" else part.removesuffix("s")
        words.append(f"{single} '{named}'" if named else f"{part}, number {step + 1}")
    return ", ".join(words) or "the file"


def _explained(raw: Json) -> AvrinError:
    """Return the validation library's error with its place and Avrin's own wording."""
    fault = first_fault(raw, _shape())
    if fault is None:
        return AvrinError("is not an Avrin project: part of it has the wrong structure")
    return AvrinError(fault.problem, place=(_describe_path(fault.path, raw),))


def _check(project: Project) -> None:
    """Check what a schema cannot: unique names, references that resolve, paths that stay inside the folder."""
    for variable in project.all_variables().values():
        if variable.start is not None and not _is_start(variable):
            raise AvrinError(
                f"starts at {json.dumps(variable.start)}, which is not a {START_OF[variable.type]}",
                place=(f"variable '{variable.name}'",), advice="Give it a value of its type, or none",
            )  # fmt: skip
    names: set[str] = set()
    for what, name in [
        *(("variable", v.name) for v in project.variables),
        *(("roster", r.name) for r in project.rosters),
        *(("derived value", d.name) for d in project.derived),
    ]:
        if name in RESERVED:
            raise AvrinError(
                f"'{name}' is a reserved word of the rule language", place=(f"{what} '{name}'",), advice="Rename it"
            )
        if name in names:
            raise AvrinError("the name is taken twice", place=(f"{what} '{name}'",), advice="Rename one of them")
        names.add(name)
    for what, idents in (
        ("widget", [w.id for w in project.widgets]),
        ("group", [g.id for g in project.groups]),
        ("plate", [p.name for p in project.plates]),
        ("screen", [s.name for s in project.screens]),
        ("option", [one.name for one in project.options]),
        ("language", [one.code for one in project.languages]),
        ("event", [e.name for e in project.events]),
        ("trace", [t.key for t in project.traces]),
        ("action", [a.label for a in project.actions]),
        ("outcome", [one.name for one in project.outcomes]),
    ):
        twice = next((ident for ident, times in Counter(idents).items() if times > 1), None)
        if twice is not None:
            raise AvrinError("appears twice", place=(f"{what} '{twice}'",), advice="Rename one of them")
    _check_groups(project)
    for recording in project.traces:
        if clash := [new for new, times in Counter(recording.names.values()).items() if times > 1]:
            both = " and ".join(f"'{own}'" for own, new in recording.names.items() if new == clash[0])
            raise AvrinError(
                f"{both} are called '{clash[0]}'", place=(f"trace '{recording.key}'", "names"),
                advice="Rename one of them",
            )  # fmt: skip
    _check_paths(project)
    _check_views(project)


def _check_paths(project: Project) -> None:
    """Check that pictures, films and recordings are in the project's folder, and each plate is a picture or a film."""
    for plate in project.plates:
        if bool(plate.picture) == bool(plate.film):
            said = "both a picture and a film" if plate.film else "neither a picture nor a film"
            raise AvrinError(f"has {said}", place=(f"plate '{plate.name}'",), advice="Name only one")
    behind = [("plate", plate.film or plate.picture) for plate in project.plates]
    for what, path in [*behind, *(("trace", t.path) for t in project.traces)]:
        try:
            inside(Path("/project"), path)
        except AvrinError as error:
            raise error.within(what) from None


def _check_views(project: Project) -> None:
    """Check that the parts of a split screen have unique names and are inside it."""
    for screen in project.screens:
        place = (f"screen '{screen.name}'", "views")
        twice = next((name for name, times in Counter(view.name for view in screen.views).items() if times > 1), None)
        if twice is not None:
            raise AvrinError(f"'{twice}' appears twice", place=place, advice="Rename one of them")
        for view in screen.views:
            x, y, wide, high = view.box
            if min(wide, high) <= 0 or x + wide > 1 + 1e-9 or y + high > 1 + 1e-9:
                raise AvrinError(
                    f"'{view.name}' reaches out of the screen", place=place,
                    advice="Its box is x, y, width and height, in shares of the screen: [0, 0, 0.5, 1] is the left half",
                )  # fmt: skip


START_OF: dict[str, str] = {"int": "number", "float": "number", "bool": "yes or no", "text": "text"}


def _is_start(variable: Variable) -> bool:
    """Return whether a variable's start value has the variable's type."""
    is_flag = isinstance(variable.start, bool)
    if variable.type in ("int", "float"):
        return isinstance(variable.start, int | float) and not is_flag
    return is_flag if variable.type == "bool" else isinstance(variable.start, str)


def _check_groups(project: Project) -> None:
    groups = {group.id: group for group in project.groups}
    for what, ident, named in [
        *(("widget", w.id, w.group) for w in project.widgets),
        *(("group", g.id, g.group) for g in project.groups),
    ]:
        if named and named not in groups:
            close = nearest(named, groups)
            raise AvrinError(
                f"there is no group '{named}'" + (f": did you mean '{close}'?" if close else ""),
                place=(f"{what} '{ident}'",),
            )
    sound: set[str] = {""}  # groups already followed outwards without finding a cycle
    for group in project.groups:
        way: dict[str, None] = {}
        outer = group.id
        while outer not in sound:
            if outer in way:
                raise AvrinError("contains itself", place=(f"group '{outer}'",), advice="Remove it from one group")
            way[outer] = None
            outer = groups[outer].group
        sound.update(way)


@functools.cache
def _fields(record: type[Record]) -> tuple[tuple[str, str, Any], ...]:
    """Return a record's fields as (name, name in the file, default)."""
    found = msgspec.structs.fields(record)
    return tuple((f.name, f.encode_name, f.default) for f in found if f.name != "extra")


def _plain(value: Json) -> Json:
    """Return a record as plain JSON values, without defaults and with its unknown keys."""
    if isinstance(value, Recording | Zone):
        first = SHORT[type(value)]
        if value == type(value)(**{first: getattr(value, first)}):
            return _plain(getattr(value, first))
    if isinstance(value, Record):
        kept = {
            written: _plain(part)
            for name, written, default in _fields(type(value))
            if (part := getattr(value, name)) not in (default, {})
        }
        return {**({"format": FORMAT} if isinstance(value, Project) else {}), **kept, **value.extra}
    if isinstance(value, tuple | list):
        return [_plain(part) for part in value]
    if isinstance(value, dict):
        return {key: _plain(part) for key, part in value.items()}
    if isinstance(value, float) and value.is_integer():
        return int(value)
    return value


def _laid_out(value: Json, depth: int) -> str:
    flat = json.dumps(value, ensure_ascii=False)
    if not isinstance(value, dict | list) or not value or (depth and len(flat) + depth <= WIDTH):
        return flat
    pad = " " * (depth + 1)
    if isinstance(value, dict):
        parts = [f"{json.dumps(key, ensure_ascii=False)}: {_laid_out(part, depth + 1)}" for key, part in value.items()]
    else:
        parts = [_laid_out(part, depth + 1) for part in value]
    ends = "{}" if isinstance(value, dict) else "[]"
    return ends[0] + "\n" + ",\n".join(pad + part for part in parts) + "\n" + " " * depth + ends[1]
