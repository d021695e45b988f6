"""All screens, sizes, plates and languages at once find what looking at each alone finds: nothing is left out, nothing added."""

from __future__ import annotations

from itertools import product
from pathlib import Path

import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.findings.finding import Finding
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.project.project import Place, Plate, Project, Screen, Variable, Widget, Zone
from avrin.trace.frames import Column, Trace
from seeded import PALE, catalogue

SCREENS = tuple(
    Screen(name=f"{wide} at {scale:g}", size=(wide, high), scale=scale, safe=0.04, inches=24, metres=metres)
    for (wide, high, metres), scale in product(
        ((1920, 1080, 0.6), (1280, 800, 1.9), (900, 1080, 0.6)), (0.75, 1.0, 1.5)
    )
)
PLATES = (
    Plate(name="fog", picture="fog.svg", keep_clear=(Zone(box=(700, 300, 400, 300), name="the boat"),)),
    Plate(name="night", picture="night.svg"),
)
SAID = {
    "de": "Tiefe unter der Oberfläche {depth | 0} m",
    "fr": "Prof. {depth | 0} m",
    "fi": "Syvyys pinnan alla {depth | 0} m",
}
TEXTS = "Depth {depth | 0} m"
ABOUT = {"off-screen", "unsafe-edge", "too-small", "overlaps", "keep-clear", "low-contrast", "outgrows-in"}


def label(ident: str, text: str, **place: object) -> Widget:
    return Widget(id=ident, kind="label", inputs={"text": text}, place=Place(**place), look={"text": "#ffffff"})  # type: ignore[arg-type]


PROJECT = Project(
    variables=(Variable(name="depth", type="float"),), screens=SCREENS, plates=PLATES,
    widgets=(
        label("depth", TEXTS, offset=(20.0, 20.0), size=(230.0, 40.0)),
        label("far", TEXTS, offset=(1500.0, 900.0), size=(400.0, 40.0)),
        label("over", TEXTS, anchor="center", pivot="center", size=(300.0, 60.0)),
        label("beside", TEXTS, offset=(60.0, 30.0), size=(230.0, 40.0)),
    ),
)  # fmt: skip


def listed(folder: Path, project: Project) -> list[Finding]:
    trace = Trace.make(
        "t", [float(i) for i in range(30)], {"depth": Column.of([float(i * 7 % 100) for i in range(30)])}
    )
    bound = bind(project, folder=folder)
    return Inspector(CHECKS).inspect(bound, [Tracks(bound, trace)])


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "texts").mkdir()
    shaded = '<rect x="96" width="96" height="108" fill="#c8d6ce"/><rect width="30" height="10" fill="#dfe8e2"/></svg>'
    (tmp_path / "fog.svg").write_text(PALE.replace("</svg>", shaded))
    (tmp_path / "night.svg").write_text(PALE.replace("#e8efe9", "#000000"))
    for code, said in SAID.items():
        (tmp_path / f"texts/{code}.po").write_text(catalogue(**{TEXTS: said}))
    return tmp_path


def test_all_at_once_is_finding_by_finding_what_one_by_one_finds(
    folder: Path, tmp_path_factory: pytest.TempPathFactory
) -> None:
    whole = {one.key: one for one in listed(folder, PROJECT) if one.code in ABOUT}
    assert {code for code, *_ in whole} == ABOUT
    alone: dict[tuple[str, str, str], list[Finding]] = {}
    for screen, plate, code in product(SCREENS, PLATES, SAID):
        other = tmp_path_factory.mktemp("one")
        (other / "texts").mkdir()
        for name in (plate.picture, f"texts/{code}.po"):
            (other / name).write_bytes((folder / name).read_bytes())
        for one in listed(other, replace(PROJECT, screens=(screen,), plates=(plate,))):
            if one.code in ABOUT:
                alone.setdefault(one.key, []).append(one)
    assert {key[:2] for key in whole} == {key[:2] for key in alone}
    for key, told in whole.items():
        # Of several screens the first is reported, or the one with the most weight: same words, same frame.
        most = max(one.weight for one in alone[key])
        assert as_alone(told) == as_alone(next(one for one in alone[key] if one.weight > most - 1e-6))


def as_alone(finding: Finding) -> Finding:
    """A finding without the word that it is on another screen than the first."""
    return replace(finding, why=finding.why.replace(f" on {finding.screen}", ""), weight=round(finding.weight, 6))


def test_each_language_and_each_plate_is_reported_on_its_own(folder: Path) -> None:
    told = listed(folder, PROJECT)
    assert {one.language for one in told if one.code == "outgrows-in"} == {"de", "fi"}
    assert {one.plate for one in told if one.code == "keep-clear"} == {"fog"}
    assert {one.plate for one in told if one.code == "low-contrast"} == {"fog"}
