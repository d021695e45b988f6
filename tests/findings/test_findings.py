"""Every kind of finding finds its fault, is silent on a near twin without it, and its fix mends it."""

from __future__ import annotations

from pathlib import Path

import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.bound import BoundWidget
from avrin.binding.places import RulePlace, with_rule
from avrin.binding.tracks import Tracks
from avrin.findings.case import Case
from avrin.findings.finding import Finding
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.findings.suppression import suppress, suppressed, unsuppress
from avrin.project.project import Action, Assignment, Place, Plate, Project, Screen, Variable, Zone
from avrin.trace.frames import Column, Trace, Value
from seeded import (
    PALE,
    PLATE,
    RISING,
    SEEDS,
    VARIABLES,
    Seed,
    at,
    bands,
    bar,
    counter,
    flags,
    inspected,
    label,
    prompt,
    widget,
)


def of(code: str, listed: list[Finding]) -> list[Finding]:
    return [finding for finding in listed if finding.code == code]


def test_every_check_is_seeded_once_and_has_a_code_of_its_own() -> None:
    assert sorted(check.code for check in CHECKS) == sorted([*SEEDS, "check-failed"])  # which no project brings about
    assert len(SEEDS) >= 30


@pytest.mark.parametrize("code", SEEDS)
def test_the_fault_is_found_once_with_where_and_why(code: str, tmp_path: Path) -> None:
    _, listed = inspected(SEEDS[code][0], tmp_path)
    (finding,) = of(code, listed)
    assert finding.widget in ("w", "v") or code in (
        "broken-catalogue",
        "film-out-of-step",
        "happens-always",
        "recorded-instead",
        "option-changes-nothing",
        "undecided-conflict",
    )
    assert finding.severity == next(check.severity for check in CHECKS if check.code == code)
    assert finding.why[0].isupper() or finding.why[0] == "`"
    assert finding.why[-1] != "."
    assert finding.advice
    assert finding.short
    frames = len(next(iter(SEEDS[code][0].columns.values()), range(12)))
    assert finding.start is None or 0 <= finding.start < (finding.end or 0) <= frames


@pytest.mark.parametrize("code", SEEDS)
def test_the_near_twin_has_not_got_it_nor_anything_above_a_hint(code: str, tmp_path: Path) -> None:
    listed = inspected(SEEDS[code][1], tmp_path)[1]
    assert of(code, listed) == []
    assert [finding.why for finding in listed if finding.severity != "hint"] == []


def test_with_many_faults_at_once_each_is_found(tmp_path: Path) -> None:
    """All seeds that need no recording or project of their own, in one project."""
    plain = {code: seed for code, (seed, _) in SEEDS.items() if seed == Seed(seed.widgets)}
    widgets = [replace(one, id=f"{code}-{one.id}") for code, seed in plain.items() for one in seed.widgets]
    _, listed = inspected(Seed(widgets), tmp_path)
    assert len(plain) > 25
    missed = {
        code
        for code, seed in plain.items()
        if not {f.widget for f in of(code, listed)} & {f"{code}-{one.id}" for one in seed.widgets}
    }
    # In this crowd every number has something next to it, and the texts on top of each other are part of a larger heap.
    assert missed == {"no-caption", "overlaps"}


FIXED = [
    "unknown-name", "text-is-name", "swapped", "spills-over", "spills-under", "count-below-zero", "from-middle",
    "whole-with-decimals", "too-many-decimals", "zero-early", "leapt-over", "hidden-band", "band-gap", "bands-alike",
    "flashes-fast", "low-contrast", "not-reset", "outgrows", "no-room", "after-lesson", "feed-stays", "feed-overflows",
    "fixed-slot", "same-slot", "too-short", "never-arrives", "stretched",
    "above-full", "full-too-small", "moves-little", "off-screen", "unsafe-edge", "never-ends",
]  # fmt: skip


@pytest.mark.parametrize("code", FIXED)
def test_its_fix_mends_it_and_breaks_nothing(code: str, tmp_path: Path) -> None:
    seed = SEEDS[code][0]
    project, listed = inspected(seed, tmp_path)
    (finding,) = of(code, listed)
    assert finding.fix is not None
    mended, after = inspected(seed, tmp_path, finding.fix.apply(project))
    assert of(code, after) == []
    assert not [f for f in after if f.severity == "error" and f.key not in {g.key for g in listed}]
    assert mended != project


def test_a_target_no_recording_reaches_tells_how_near_they_came(tmp_path: Path) -> None:
    (finding,) = of("never-true", inspected(SEEDS["never-true"][0], tmp_path)[1])
    assert finding.why == "W: visible (scrap >= 400) is true in no recording; the most any of them reaches is 40 of 400"


CREW_SCRAP = {f"crew[{i}].scrap": [float(i * 40 + k) for k in range(12)] for i in range(3)}


def test_any_copy_of_a_repeated_widget_may_have_it(tmp_path: Path) -> None:
    """Only the third copy is that far to the right."""
    step = Place(offset=(900.0, 100.0), size=(300.0, 60.0), step=(600.0, 0.0))
    seed = Seed([counter("crew[slot].scrap", repeat="crew", place=step)], CREW_SCRAP)  # type: ignore[arg-type]
    _, listed = inspected(seed, tmp_path)
    (finding,) = of("off-screen", listed)
    assert finding.why == "W is wholly off the screen on desk (1920 × 1080)"
    still = Seed([counter("crew[slot].scrap", repeat="crew")], CREW_SCRAP)  # type: ignore[arg-type]
    (over,) = of("overlaps", inspected(still, tmp_path)[1])
    assert (over.widget, over.about) == ("w", "w")  # its copies overlap


def test_what_must_hold_everywhere_must_hold_of_every_copy(tmp_path: Path) -> None:
    rich = bands(("rich", "above", "85"))
    seed = Seed([counter("crew[slot].scrap", repeat="crew", bands=rich)], CREW_SCRAP)  # type: ignore[arg-type]
    assert of("never-reached", inspected(seed, tmp_path)[1]) == []  # the third is, at 91
    richer = bands(("rich", "above", "95"))
    seed = Seed([counter("crew[slot].scrap", repeat="crew", bands=richer)], CREW_SCRAP)  # type: ignore[arg-type]
    assert len(of("never-reached", inspected(seed, tmp_path)[1])) == 1


STATES = label("{if scrap == 2 then 1 else if scrap == 9 then 2 else if scrap == 4 then 3 else 0}")
TOOLS: list[Value] = [2, 9, 9, 4, 2, 2, 9, 4, 9, 2, 9, 4]
PATCH = widget(
    "button", {"label": "Patch"}, "v", place=at(100.0, 400.0), options={"does": [{"set": "hull_max", "to": "5"}]}
)
SWIM = Action(label="swim", does=(Assignment(set="hull_max", to="5"),))
FOG = {"plates": (PLATE,)}
EDGED = Screen(name="tv", size=(1920, 1080), safe=0.05)
HERE, BARE = at(100.0, 100.0), at(300.0, 300.0)
WAITS = {"leak": flags(".......#####")}
NUMBER = widget("counter", {"value": "scrap"}, place=BARE)
NOT_FAULTS = [
    ("text-is-name", Seed([label("Hold (hull)")])),
    ("text-is-name", Seed([label("Scrap = {scrap}")])),
    # one above the other, as a shadow: two that show the same at one position are not a copy with a forgotten slot
    (
        "same-slot",
        Seed([label("{crew[0].scrap | 0}", place=HERE), label("{crew[0].scrap | 0}", ident="v", place=HERE)]),
    ),
    ("range-otherwise", Seed([bar("hull / 100", "1")])),  # a share needs no range
    ("range-otherwise", Seed([bar("hull", "1")], {"hull": [0.2, 0.4] * 6})),
    ("never-ends", Seed([prompt("leak")], WAITS, step=4.9)),  # not so long yet
    ("flashes-fast", Seed([label("Low", also={"visible": "blink(0.4s) or hull > 500"})])),
    ("flashes-fast", Seed([label("Low", also={"visible": "blink(333.334ms)"})])),
    ("divides-by-zero", Seed([counter("hull / scrap otherwise 0")], {"scrap": [1.0, 2.0] * 6})),
    ("no-caption", Seed([NUMBER, label("Scrap", ident="v", place=at(300.0, 370.0))])),
    ("count-below-zero", Seed([counter("cold")], {"cold": list(range(6, -6, -1))})),  # nothing says that it counts
    ("count-below-zero", Seed([counter("scrap - hull")])),  # a difference
    ("text-is-name", Seed([label("scrap")])),  # a heading
    ("digits-unbound", Seed([widget("banner", {"when": "leak", "title": "Level 2"})])),
    ("zero-early", Seed([label("{hull | 0} points left of the hull")])),  # it does not count down
    ("off-screen", Seed([widget("panel", {}, place=at(1880.0, 20.0))])),  # a plate that bleeds over the edge
    ("unsafe-edge", Seed([widget("panel", {}, place=at(-30.0, 20.0))], project={"screens": (EDGED,)})),
    ("low-contrast", Seed([label("Dark", look={"text": "#10222be0"})], project=FOG, files={"fog.svg": PALE})),
    ("leapt-over", Seed([STATES], {"scrap": TOOLS})),  # from one of the states it is tested for to another
    ("not-recorded", Seed([label("{hull_max}"), PATCH])),  # a button sets it
    ("not-recorded", Seed([label("{hull_max}")], project={"actions": (SWIM,)})),
    ("whole-with-decimals", Seed([counter("scrap / 3", "0.0")])),
    ("whole-with-decimals", Seed([counter("scrap * 0.5", "0.0")])),
]


@pytest.mark.parametrize(("code", "seed"), NOT_FAULTS)
def test_what_may_well_be_meant_is_not_reported(code: str, seed: Seed, tmp_path: Path) -> None:
    cold = Variable(name="cold", type="float")
    more = replace(seed, project={**seed.project, "variables": (*VARIABLES, cold)})
    assert of(code, inspected(more, tmp_path)[1]) == []


def test_a_range_that_was_only_guessed_is_nothing_to_follow(tmp_path: Path) -> None:
    for guessed, told in ((False, 1), (True, 0)):
        hull = Variable(name="hull", type="float", low=0, high=100, guessed=guessed)
        seed = Seed([bar("hull", "60")], {"hull": [20.0, 40.0] * 6}, project={"variables": (hull,)})
        assert len(of("range-otherwise", inspected(seed, tmp_path)[1])) == told


FAULTS = [
    ("text-is-name", Seed([label("Scrap = scrap")])),
    ("text-is-name", Seed([label('"hull / 2"')])),
    ("text-is-name", Seed([label("floor(hull)")])),
    ("flashes-fast", Seed([label("Low", also={"visible": "blink(0.2s)"})])),
    ("divides-by-zero", Seed([counter("hull / (scrap - 4) otherwise 0")])),
    ("divides-by-zero", Seed([counter("share(hull, scrap, 8) otherwise 0")])),
    ("no-caption", Seed([NUMBER, label("Scrap", ident="v", place=at(1200.0, 800.0))])),
    ("never-ends", Seed([prompt("leak")], WAITS, step=5.0)),
    ("leapt-over", Seed([STATES], {"scrap": [0, 1, 3, 3, 5, 8, 10, 12, 12, 12, 12, 12]})),
    ("leapt-over", Seed([label("{if scrap == 9 then 1 else 0}")])),  # within a text
    ("whole-with-decimals", Seed([counter("scrap", "0.0", options={"roll": 0.5})])),
    ("whole-with-decimals", Seed([counter("max(0, scrap - 3) * 2", "0.0")])),
]


@pytest.mark.parametrize(("code", "seed"), FAULTS)
def test_what_is_wrong_in_a_less_simple_place_is_reported_too(code: str, seed: Seed, tmp_path: Path) -> None:
    assert of(code, inspected(seed, tmp_path)[1])


def test_the_moment_shows_the_value_that_the_title_names(tmp_path: Path) -> None:
    deep: dict[str, list[Value]] = {
        "hull": [50.0, 130.0, 170.0, 140.0, 60.0, -5.0, -20.0, -1.0, 30.0, 120.0, 90.0, 80.0]
    }
    listed = inspected(
        Seed([bar(), counter("scrap", ident="v")], {**deep, "scrap": [3, -1, -4, 2, -2, *[0] * 7]}), tmp_path
    )[1]
    (over,), (below,), (count,) = (of(code, listed) for code in ("above-full", "below-empty", "count-below-zero"))
    assert (over.short, over.start, over.stretches) == ("170%: above full", 2, ((1, 4), (9, 10)))
    assert (below.short, below.start, below.stretches) == ("-20%: below empty", 6, ((5, 8),))
    assert (count.short, count.start, count.stretches) == ("shows -4", 2, ((1, 3), (4, 5)))


def test_advice_speaks_of_the_project_itself(tmp_path: Path) -> None:
    def advice(code: str, seed: Seed) -> str:
        return of(code, inspected(seed, tmp_path)[1])[0].advice

    shown = Seed([label("Scraps 250")])
    assert advice("digits-unbound", shown) == "Write the variable between braces, such as {scrap}, or remove the digits"
    assert "{hull}" in advice("digits-unbound", Seed([label("No 250")]))
    words = {"variables": (Variable(name="phase", type="text"),), "rosters": ()}
    assert advice("digits-unbound", Seed([label("No 250")], project=words)) == (
        "Write the variable between braces, or remove the digits"
    )
    brief = Seed([label("Seal the seam now", also={"visible": "leak"})], {"leak": [i == 3 for i in range(12)]})
    assert advice("too-short", brief) == "Let it stay for 1.7 s after its condition: latch(leak, since(leak) >= 1.7s)"


def test_letters_that_are_hardly_there_stand_out_too_little(tmp_path: Path) -> None:
    faint = Seed([label("Dark", look={"text": "#10222b60"})], project=FOG, files={"fog.svg": PALE})
    (finding,) = of("low-contrast", inspected(faint, tmp_path)[1])
    assert finding.plate == "fog"


def test_a_panel_wholly_off_the_screen_is_reported(tmp_path: Path) -> None:
    (finding,) = of("off-screen", inspected(Seed([widget("panel", {}, place=at(2000.0, 20.0))]), tmp_path)[1])
    assert "wholly off the screen" in finding.why


def test_the_furthest_of_all_recordings_counts(tmp_path: Path) -> None:
    seed = Seed([label("{scrap}", place=at(1840.0, 20.0), look={"text_size": 40})])
    project, listed = inspected(seed, tmp_path)
    assert of("off-screen", listed) == []
    bound = bind(project, folder=tmp_path)
    dives = [
        Trace.make(n, [0.0, 1.0], {"scrap": Column.of([1.0, most])}) for n, most in (("few", 2.0), ("rich", 123_456.0))
    ]
    (finding,) = of("off-screen", Inspector(CHECKS).inspect(bound, [Tracks(bound, dive) for dive in dives]))
    assert finding.trace == "rich"


def test_a_target_beyond_the_declared_range_is_reported_to_be_out_of_reach(tmp_path: Path) -> None:
    seed = Seed([label("Rich", also={"visible": "scrap >= 1200"})])
    (finding,) = of("never-true", inspected(seed, tmp_path)[1])
    assert finding.why.endswith("40 of 1,200, and its declared range ends at 999, so it cannot happen")
    assert "Play on" not in finding.advice
    assert (finding.trace, finding.start) == ("dive", RISING.index(40.0)), "the press goes to the nearest miss"


def test_where_a_value_leaps_over_an_equality(tmp_path: Path) -> None:
    (finding,) = of("leapt-over", inspected(SEEDS["leapt-over"][0], tmp_path)[1])
    assert (finding.start, finding.variable, finding.fix and finding.fix.label) == (5, "scrap", "write >=")
    assert finding.why == "W, input 'visible': scrap goes from 8 to 10, past 9, and never equals it"


def test_ignored_findings_keep_their_reason_until_they_are_reported_again(tmp_path: Path) -> None:
    project, listed = inspected(SEEDS["from-middle"][0], tmp_path)
    (finding,) = of("from-middle", listed)
    quiet = suppress(project, finding, "it is the balance of two sides")
    assert suppressed(quiet, listed) == {finding: "it is the balance of two sides"}
    again = suppress(quiet, finding, "a better reason")
    assert len(again.hush) == 1
    assert suppressed(unsuppress(again, finding), listed) == {}


# leak at every half second, runs -> frames of texts that vanish too soon
SHORT = [
    ("..##..", None, []), (".##.", None, [(1, 3)]), (".###.", None, []),
    ("##..", None, []),  # began before the recording did
    ("..##", None, []),  # goes on after it
    (".##.", [1, 1, 1, 2], []),  # cut off by a restart
    (".#.#.", None, [(1, 2), (3, 4)]),
]  # fmt: skip


@pytest.mark.parametrize(("leak", "runs", "frames"), SHORT[1:])
def test_texts_that_vanish_too_soon(
    leak: str, runs: list[int] | None, frames: list[tuple[int, int]], tmp_path: Path
) -> None:
    """Thirteen letters take 0.8 + 13 · 0.05 s."""
    columns = {"leak": [mark == "#" for mark in leak], "hull": [1.0] * len(leak), "scrap": [1.0] * len(leak)}
    seed = Seed([label("Seal the seam", also={"visible": "leak"})], columns, runs, step=0.5)  # type: ignore[arg-type]
    listed = of("too-short", inspected(seed, tmp_path)[1])
    assert [stretch for finding in listed for stretch in finding.stretches] == frames


def test_after_an_edit_only_what_it_touched_is_looked_at_again() -> None:
    looked: list[str] = []
    one = next(check for check in CHECKS if check.code == "from-middle")

    def counting(_case: Case, widget: BoundWidget) -> list[Finding]:
        looked.append(widget.widget.id)
        return []

    inspector = Inspector([replace(one, widget=counting)])
    base = Project(widgets=(counter("1"), counter("2", ident="v")))
    trace = Trace.make("t", [0.0, 1.0], {"x": Column.of([1.0, 2.0])})
    bound = bind(base)
    inspector.inspect(bound, [Tracks(bound, trace)])
    changed = bind(with_rule(base, RulePlace("widget", "v", "inputs", "value"), "3"), bound)
    inspector.inspect(changed, [Tracks(changed, trace)])
    assert looked == ["w", "v", "v"]
    inspector.inspect(changed, [Tracks(changed, Trace.make("t", [0.0], {"x": Column.of([1.0])}))])
    assert looked == ["w", "v", "v", "w", "v"]
    wider = bind(replace(changed.project, reference=(1000, 1000)), changed)
    inspector.inspect(wider, [Tracks(wider, trace)])
    assert looked[5:] == ["w", "v"]
    other = inspector.branch()
    edited = bind(with_rule(wider.project, RulePlace("widget", "w", "inputs", "value"), "4"), wider)
    other.inspect(edited, [Tracks(edited, trace)])
    assert looked[7:] == ["w"]
    inspector.inspect(wider, [Tracks(wider, trace)])
    assert looked[8:] == [], "the other one took nothing away"


# when the plate is there, when the texts are -> the frame at which they meet, None for never
MEETINGS = [
    ("leak", "hull < 60", "....#.......", 4), ("leak", "hull < 60", "#...........", None),
    ("hull < 60 or leak", "hull < 60", "#...........", 3), ("", "hull < 60", "............", 3),
    ("leek", "hull < 60", "....#.......", None),
]  # fmt: skip


@pytest.mark.parametrize(("when", "visible", "leak", "frame"), MEETINGS)
def test_what_stands_over_a_plate_is_judged_only_while_the_recording_chooses_it(
    when: str, visible: str, leak: str, frame: int | None, tmp_path: Path
) -> None:
    """Hull is below 60 on frames 3 to 7."""
    fog = replace(PLATE, when=when, keep_clear=(Zone(box=(0, 0, 900, 900), name="the way out"),))
    pale = label("Pale", look={"text": "#ffffff"}, also={"visible": visible})
    seed = Seed([pale], {"leak": flags(leak)}, project={"plates": (fog,)}, files={"fog.svg": PALE})
    _, listed = inspected(seed, tmp_path)
    for code in ("low-contrast", "keep-clear"):
        assert [one.start for one in of(code, listed)] == ([] if frame is None else [frame])


def test_of_two_plates_whose_rules_are_true_the_first_is_there(tmp_path: Path) -> None:
    plates = (Plate(name="night", picture="night.svg", when="leak"), replace(PLATE, when="true"))
    files: dict[str, str | bytes] = {"fog.svg": PALE, "night.svg": PALE.replace("#e8efe9", "#000000")}
    pale = label("Pale", look={"text": "#ffffff"}, also={"visible": "hull < 60"})
    for leak, faint in (("...#####....", 0), ("...####.....", 1)):
        _, listed = inspected(Seed([pale], {"leak": flags(leak)}, project={"plates": plates}, files=files), tmp_path)
        assert len(of("low-contrast", listed)) == faint


def test_answers_that_are_known_are_one_press(tmp_path: Path) -> None:
    """What was typed, the finding it gives, and what the press writes."""
    visible = inspected(Seed([label("Rich", also={"visible": "scrap"})]), tmp_path)
    (finding,) = of("wrong-type", visible[1])
    assert finding.fix is not None
    assert finding.fix.apply(visible[0]).widgets[0].inputs["visible"] == "scrap > 0"
    kind = inspected(Seed([replace(label("Rich"), kind="lbel")]), tmp_path)
    (finding,) = of("broken-option", kind[1])
    assert finding.fix is not None
    assert (finding.fix.label, finding.fix.apply(kind[0]).widgets[0].kind) == ("make it a label", "label")
    decimals = inspected(Seed([label("Hull {hull / 3} of {hull | 0}")]), tmp_path)
    (finding,) = of("too-many-decimals", decimals[1])
    assert finding.fix is not None
    assert finding.fix.apply(decimals[0]).widgets[0].inputs["text"] == "Hull {hull / 3 | 0} of {hull | 0}"


def test_a_share_of_another_scale_is_full_where_an_offer_would_have_it(tmp_path: Path) -> None:
    project, listed = inspected(SEEDS["full-too-small"][0], tmp_path)
    (finding,) = of("full-too-small", listed)
    assert "at more than twice its full in 100% of dive, up to 10000%" in finding.why
    assert finding.fix is not None
    assert finding.fix.apply(project).widgets[0].inputs["full"] == "hull_max", "the maximum of that name"


def test_what_stands_in_its_words_is_no_secret_of_a_clamped_picture(tmp_path: Path) -> None:
    words = {"value": "hull", "full": "60", "caption": "Hull {hull | 0}"}
    plain = replace(bar(full="60"), inputs=words)
    assert not of("above-full", inspected(Seed([plain]), tmp_path)[1])


def test_a_widget_is_moved_by_as_much_as_it_reaches_out(tmp_path: Path) -> None:
    project, listed = inspected(SEEDS["off-screen"][0], tmp_path)
    (finding,) = of("off-screen", listed)
    assert finding.fix is not None
    before, after = (one.widgets[0].place.offset for one in (project, finding.fix.apply(project)))
    assert after[1] == before[1]
    assert 0 < before[0] - after[0] < 300


def test_figures_that_a_condition_fixes_are_no_placeholders(tmp_path: Path) -> None:
    fixed = Seed([label("Stage 2 of 3", also={"visible": "scrap == 2 or scrap == 3"})])
    assert not of("digits-unbound", inspected(fixed, tmp_path)[1])
    other = Seed([label("Stage 2", also={"visible": "scrap == 20"})])
    assert of("digits-unbound", inspected(other, tmp_path)[1])
