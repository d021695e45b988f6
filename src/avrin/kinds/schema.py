"""The JSON Schema of project files: the model's, extended by each widget kind."""

from __future__ import annotations

from typing import Any

import msgspec

from avrin.kinds.registry import KINDS
from avrin.project.project import Json
from avrin.storage.files import schema

__all__ = ["project_schema"]


def project_schema() -> dict[str, Any]:
    """Return the whole schema; a widget's kind determines its inputs, options and look."""
    whole = schema()
    parts: dict[str, Any] = whole["$defs"]
    for part in parts.values():
        part.get("properties", {}).pop("extra", None)  # where unknown keys are stored is not part of the file
    widget = parts["Widget"]
    widget["properties"]["kind"] = {"enum": list(KINDS)}
    branches = []
    for kind in KINDS.values():
        names = {i.name: {"type": "string", "description": i.help} for i in kind.all_inputs()}
        (options, look), more = msgspec.json.schema_components([kind.options, kind.look], ref_template="#/$defs/{name}")
        for name, part in more.items():
            full = f"{kind.name}.{name}"
            parts[full] = _renamed(part, more, kind.name)
        branches.append({
            "if": {"properties": {"kind": {"const": kind.name}}},
            "then": {"properties": {
                "inputs": {"type": "object", "properties": names, "additionalProperties": False},
                "options": _renamed(options, more, kind.name),
                "look": {"allOf": [_renamed(look, more, kind.name)],
                         "properties": {"bands": {"type": "object", "additionalProperties": _renamed(look, more, kind.name)}}},
            }},
        })  # fmt: skip
    widget["allOf"] = branches
    return whole


def _renamed(part: Json, names: dict[str, Any], kind: str) -> Json:
    """Prefix references to a kind's own definitions with the kind's name, since kinds share definition names."""
    if isinstance(part, dict):
        return {
            key: f"#/$defs/{kind}.{value.rsplit('/', 1)[-1]}"
            if key == "$ref" and value.rsplit("/", 1)[-1] in names
            else _renamed(value, names, kind)
            for key, value in part.items()
        }
    if isinstance(part, list):
        return [_renamed(entry, names, kind) for entry in part]
    return part
