"""Findings with one cause: the rest is listed under the cause and ignored with it."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.findings.causes import caused, with_rest
from avrin.findings.finding import SEVERITIES, Finding
from avrin.findings.registry import CHECKS
from avrin.findings.reports import REPORTS, Report
from avrin.findings.suppression import suppress, suppressed
from avrin.project.project import Group, Project, Variable
from seeded import Seed, bands, bar, counter, flags, inspected, label

HIDES = bands(("low", "below", "50"), ("critical", "below", "20"))
RICH = bands(("rich", "above", "20"))
NESTED = {"groups": (Group(id="outer", visible="scrap > 400"), Group(id="inner", group="outer"))}
LEAK = {"leak": flags("..#.........")}

# the cause, a project that has it -> what follows from it, as codes and widgets
FOLLOWING = [
    ("hidden-band", Seed([bar(bands=HIDES)]), ["never-reached w"]),
    ("full-is-value", Seed([bar(full="hull", bands=bands(("low", "below", "50%")))]), ["never-reached w"]),
    ("never-true", Seed([label("{hull}", also={"visible": "scrap >= 400"}, bands=bands(("low", "when", "hull < 50")))]),
     ["never-reached w", "never-visible w"]),
    ("group-hidden", Seed([label("Dive", group="inner")], project=NESTED), ["never-visible w"]),
    ("leapt-over", Seed([label("Nine", also={"visible": "scrap == 9"})]), ["never-true w", "never-visible w"]),
    ("recorded-otherwise", Seed([counter("scrap"), bar("scrap", bands=RICH, ident="v")], {"scrap": ["a"] * 12}),
     ["never-changes v", "never-changes w", "never-reached v"]),
    ("unknown-name", Seed([counter("scarp"), counter("scarp", ident="v")]), ["unknown-name v"]),
    ("too-short", Seed([label("Seal the seam now", also={"visible": "leak"}, repeat="crew")], LEAK),
     ["too-short w", "too-short w"]),
    ("not-recorded", Seed([counter("crew[slot].scrap", repeat="crew")]), ["not-recorded w", "not-recorded w"]),
]  # fmt: skip


def under(listed: list[Finding], code: str) -> tuple[Finding, list[Finding]]:
    return next((cause, rest) for cause, rest in with_rest(listed) if cause.code == code)


@pytest.mark.parametrize(("code", "seed", "rest"), FOLLOWING)
def test_the_cause_is_reported_with_the_rest_under_it(code: str, seed: Seed, rest: list[str], tmp_path: Path) -> None:
    _, listed = inspected(seed, tmp_path)
    cause, following = under(listed, code)
    assert cause.cause is None
    assert sorted(f"{one.code} {one.widget}" for one in following) == rest
    assert {one.cause for one in following} == {cause.key}
    assert len(listed) == sum(
        1 + len(those) for _, those in with_rest(listed)
    )  # nothing is lost, nothing is reported twice


def test_what_has_another_cause_stays_by_itself(tmp_path: Path) -> None:
    """Another widget, another band, another variable, another name."""
    apart = [
        Seed([bar(bands=HIDES), counter("scrap", bands=bands(("most", "above", "500")), ident="v")]),
        Seed([bar(bands=(*HIDES, *bands(("gone", "above", "200"))))]),
        Seed([counter("scarp"), counter("hul", ident="v")]),
        Seed([label("Dive", group="inner"), label("Up", also={"visible": "scrap > 400"}, ident="v")], project=NESTED),
    ]
    alone = ["never-reached", "never-reached", "unknown-name", "never-visible"]
    for seed, code in zip(apart, alone, strict=True):
        _, listed = inspected(seed, tmp_path)
        by_itself = [one for one in listed if one.code == code and one.cause is None]
        beside = [one for one in listed if one.code == code and one.cause is not None]
        if code == "never-visible":  # the second follows, but from its own condition
            assert {one.cause[0] for one in beside if one.cause} == {"group-hidden", "never-true"}
        else:
            assert by_itself, code


def test_nothing_follows_in_a_circle_or_from_something_milder() -> None:
    follows = {check.code: {code for code, _ in check.follows if code != check.code} for check in CHECKS}
    severity = {check.code: SEVERITIES.index(check.severity) for check in CHECKS}
    assert all(code in follows for causes in follows.values() for code in causes)
    waiting = dict(follows)
    while ready := [code for code, causes in waiting.items() if not causes & waiting.keys()]:
        for code in ready:
            del waiting[code]
    assert waiting == {}
    assert all(severity[cause] <= severity[code] for code, causes in follows.items() for cause in causes)


def test_a_cause_that_is_ignored_takes_what_follows_with_it(tmp_path: Path) -> None:
    project, listed = inspected(FOLLOWING[0][1], tmp_path)
    cause, (rest,) = under(listed, "hidden-band")
    quiet = suppressed(suppress(project, cause, "it is a draft"), listed)
    assert (quiet[cause], quiet[rest]) == ("it is a draft", "it is a draft")
    own = suppressed(suppress(project, rest, "too deep to matter"), listed)
    assert cause not in own
    assert own[rest] == "too deep to matter"
    assert with_rest([rest]) == [(rest, [])]  # its cause is not among the findings


def test_reports_tell_what_follows_from_what() -> None:
    low = Finding("w", "never low", "W is never low", "Play on", about="low", code="never-reached", variable="x")
    lost = Finding("w", "x: not recorded", "No recording has `x`", "Record it", about="x", variable="x",
                   code="not-recorded", severity="warning")  # fmt: skip
    listed = caused(CHECKS, [lost, low, replace(low, about="high", widget="v", variable="y")], bind(Project()))
    made = Report("Dive", "dive.avrin", [], CHECKS, listed, {})
    lines = REPORTS["text"](made).splitlines()
    assert lines[2] == " " * 28 + "so never-reached: W is never low"
    assert lines[-1] == "Dive: 0 errors, 1 warning, 1 hint, and 1 that follows from these"
    told = json.loads(REPORTS["json"](made))
    assert [one.get("follows") for one in told] == [None, {"code": "not-recorded", "of": "w", "about": "x"}, None]
    results = json.loads(REPORTS["sarif"](made))["runs"][0]["results"]
    assert [one.get("properties") for one in results] == [None, {"follows": "not-recorded/w/x"}, None]


def test_what_a_dead_variable_feeds_follows_from_it_and_nothing_else_does() -> None:
    project = Project(
        variables=(Variable(name="x", type="float"), Variable(name="y", type="float")),
        widgets=(counter("x", ident="w"), counter("y", ident="v"), counter("y + x * 0", ident="u")),
    )
    dead = Finding(
        "w", "x: not recorded", "No recording has `x`", "Record it", about="x", variable="x", code="not-recorded",
        severity="warning",
    )  # fmt: skip
    rest = [
        Finding(ident, "never shows", "It never shows", "Play on", about="", code="never-visible") for ident in "wvu"
    ]
    listed = caused(CHECKS, [dead, *rest], bind(project))
    assert [one.cause is not None for one in listed] == [False, True, False, True]
    assert listed[1].cause == dead.key
    nobody = replace(rest[0], widget="gone")
    assert caused(CHECKS, [dead, nobody], bind(project))[1].cause is None


def test_what_lies_in_a_hidden_group_follows_from_it_however_deep() -> None:
    groups = (Group(id="a"), Group(id="b", group="a"), Group(id="c", group="b"), Group(id="d"))
    project = Project(groups=groups, widgets=(label("x", ident="w", group="c"), label("y", ident="v", group="d")))
    hidden = Finding(
        "w", "group a never shows", "It never shows", "Look", about="a", code="group-hidden", severity="warning"
    )
    rest = [Finding(ident, "never shows", "It never shows", "Play on", code="never-visible") for ident in "wv"]
    assert [one.cause for one in caused(CHECKS, [hidden, *rest], bind(project))] == [None, hidden.key, None]
