"""What every kind draws: its manual sample, and with each option and each number of its look changed, state by state.

`.venv/bin/python tests/kinds/known_shapes.py` writes it down anew, where a change is meant; look at the pictures of the
manual then.
"""

from __future__ import annotations

import hashlib
import json
import sys
import typing
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import msgspec

sys.path.insert(0, str(Path(__file__).parent.parent))

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.kinds.kind import Drawing, Kind, KindSample
from avrin.kinds.kind_samples import sample_project, sample_widget
from avrin.kinds.registry import KINDS
from avrin.kinds.schema import project_schema
from avrin.render.fonts import TextMeasure
from avrin.trace.frames import Column, Event, Trace, Value

KNOWN, SCHEMA = (Path(__file__).parent / f"known/{name}.json" for name in ("shapes", "schema"))
HULL: list[Value] = [0.0, 7.0, 31.0, 64.5, 100.0, 140.0, -20.0, None]
COLUMNS: dict[str, list[Value]] = {
    "hull": HULL, "full": [100.0] * 7 + [None], "words": ["Seal", "a longer one", "", None, "x", "y", "z", "w"],
    "crew[0].name": ["Ona"] * 8, "crew[0].scrap": [3.0, 12.0, 12.0, 9.0, None, 1.0, 1.0, 1.0],
    "crew[1].name": ["Teo", "Teo", None, "Teo", "Teo", "Teo", "Teo", "Teo"],
    "crew[1].scrap": [8.0, 8.0, None, 9.0, 8.0, 2.0, 1.0, 0.0],
}  # fmt: skip
EVENTS = (Event(1.0, "hit", {"points": 4.0}), Event(2.2, "hit", {"points": 25.0}), Event(5.0, "hit", {}))


def variants(kind: Kind) -> Iterator[tuple[str, KindSample]]:
    """The pose and what it is tried with, then one of each field another."""
    yield "pose", kind.manual_sample
    yield "tried", kind.test_sample
    for part, struct in (("options", kind.options), ("look", kind.look)):
        hints = typing.get_type_hints(struct, include_extras=True)
        for field in msgspec.structs.fields(struct):
            for number, value in enumerate(_others(field.name, hints[field.name], field.default)):
                raw = {**getattr(kind.test_sample, part), field.name: value}
                yield f"{part}.{field.name} {number}", msgspec.structs.replace(kind.test_sample, **{part: raw})


def _others(name: str, hint: Any, default: object) -> list[object]:
    """Other values of a field: every word, the other answer, larger numbers, another icon and a picture that is not there."""
    if name in ("asset", "picture", "frame"):
        return ["star", "no-such.png"]
    if name == "face":
        return [{"picture": "figures.png", "cell": [8, 12], "characters": "0123456789.,:—"}]
    hint = typing.get_args(hint)[0] if typing.get_origin(hint) is typing.Annotated else hint
    if typing.get_origin(hint) is typing.Literal:
        return [word for word in typing.get_args(hint) if word != default]
    if isinstance(default, bool):
        return [not default]
    if isinstance(default, int | float):
        return [default + 3]
    return ["#4080c0a0"] if isinstance(default, str) and default.startswith("#") else []


def drawn(kind: Kind, sample: KindSample) -> str:
    """All shapes over the frames, one line each, numbers to the thousandth; why not, where the sample cannot be used."""
    widget = sample_widget(kind, sample)
    bound = bind(sample_project(widget), events={"hit": {"points": "number"}})
    if bound.errors:
        return "; ".join(sorted(str(error) for error in bound.errors.values()))
    trace = Trace.make("t", [float(i) for i in range(8)], {n: Column.of(v) for n, v in COLUMNS.items()}, events=EVENTS)
    tracks, found = Tracks(bound, trace), bound.widgets["w"]
    lines = []
    for frame in range(len(trace)):
        for hot in ("", "hover", "held") if kind.pressed else ("",):
            state = tracks.state(found, frame)
            look = found.looks.get(str(state["band"] or ""), found.looks[""])
            drawing = Drawing(
                state,
                *sample.size,
                found.options,
                look,
                TextMeasure(),
                "—",
                float(frame),
                Path(),
                (-900.0, -500.0, 1920.0, 1080.0),
                hot,
            )
            shapes = kind.shapes(drawing)
            lines.append(json.dumps(_plain(shapes), ensure_ascii=False))
    return "\n".join(lines)


def _plain(value: object) -> object:
    if isinstance(value, float):
        return round(value, 3) + 0.0
    if isinstance(value, msgspec.Struct):
        return [type(value).__name__, *(_plain(getattr(value, name)) for name in value.__struct_fields__)]
    return [_plain(part) for part in value] if isinstance(value, tuple | list) else value


def expected() -> dict[str, dict[str, str]]:
    """A digest of what is drawn, by kind and variant."""
    return {
        name: {
            title: hashlib.blake2b(drawn(kind, sample).encode(), digest_size=8).hexdigest()
            for title, sample in variants(kind)
        }
        for name, kind in KINDS.items() if name != "dial"
    }  # fmt: skip


def known_schema() -> dict[str, str]:
    """A digest of what the file's schema says of each record."""
    records = project_schema()["$defs"]
    del records["Widget"]  # it names the kind that only the tests know
    return {
        name: hashlib.blake2b(json.dumps(told, sort_keys=True).encode(), digest_size=8).hexdigest()
        for name, told in records.items() if "ial" not in name
    }  # fmt: skip


if __name__ == "__main__":
    KNOWN.write_text(json.dumps(expected(), indent=1) + "\n", "utf-8")
    SCHEMA.write_text(json.dumps(known_schema(), indent=1) + "\n", "utf-8")
