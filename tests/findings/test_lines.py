"""Where checks draw their lines: a fault at each, and none just beside it."""

from __future__ import annotations

from pathlib import Path

import pytest

from avrin.findings.finding import Finding
from avrin.project.project import Place, Screen, Variable, Widget
from seeded import HIT, PALE, PLATE, VARIABLES, Seed, at, flags, inspected, label, prompt, widget


def listed(seed: Seed, code: str, folder: Path) -> list[Finding]:
    return [finding for finding in inspected(seed, folder)[1] if finding.code == code]


@pytest.mark.parametrize(
    ("rule", "times"), [("blink(0.2s)", "5.0"), ("blink(0.3s)", "3.3"), ("blink(0.34s)", ""), ("blink(1s)", "")]
)
def test_what_blinks_more_than_three_times_a_second(rule: str, times: str, tmp_path: Path) -> None:
    reported = listed(Seed([widget("label", {"text": "x", "visible": rule})]), "flashes-fast", tmp_path)
    assert [one.short for one in reported] == ([f"blinks {times} times a second"] if times else [])


@pytest.mark.parametrize(("step", "stays"), [(1.8, ""), (1.9, "21"), (3.0, "33")])
def test_a_message_that_stays_for_twenty_seconds_to_the_end(step: float, stays: str, tmp_path: Path) -> None:
    reported = listed(Seed([prompt("hull < 200")], step=step), "never-ends", tmp_path)
    assert [one.why for one in reported] == (
        [f"W appears and stays for {stays} s, to the end of the run"] if stays else []
    )


@pytest.mark.parametrize(("high", "never"), [(20, False), (19.5, True), (None, False)])
def test_what_can_never_be_reached_is_reported_by_the_range(high: float | None, never: bool, tmp_path: Path) -> None:
    gauge = Variable(name="gauge", type="float", low=0, high=high)
    shown = widget("label", {"text": "x", "visible": "gauge >= 20"})
    seed = Seed([shown], {"gauge": [float(i) for i in range(12)]}, project={"variables": (gauge,)})
    (reported,) = listed(seed, "never-true", tmp_path)
    assert "the most any of them reaches is 11 of 20" in reported.why
    assert ("so it cannot happen" in reported.why) == never


@pytest.mark.parametrize(
    ("shown", "runs", "reported"),
    [
        ("...#........", None, True),
        ("...#........", [1] * 3 + [2] * 9, False),  # it was there when the run began
        ("...#........", [1] * 4 + [2] * 8, False),  # the run's end cut it off
        ("..##........", [1] * 3 + [2] * 9, False),
        ("#...........", None, False),
        ("...........#", None, False),
    ],
)
def test_a_text_too_brief_is_one_whose_whole_stay_was_recorded(
    shown: str, runs: list[int] | None, reported: bool, tmp_path: Path
) -> None:
    seed = Seed([label("Mind the gap", also={"visible": "leak"})], {"leak": flags(shown)}, runs, step=0.1)
    assert bool(listed(seed, "too-short", tmp_path)) is reported


@pytest.mark.parametrize(("keep", "reported"), [(7.0, False), (60.0, True)])
def test_lines_that_stay_too_long_are_kept_for_seven_seconds(keep: float, reported: bool, tmp_path: Path) -> None:
    seed = Seed([widget("feed", {}, options={"lines": {"hit": "Rock!"}, "keep": keep})], events=(HIT,))
    project, findings = inspected(seed, tmp_path)
    stays = [one for one in findings if one.code == "feed-stays"]
    assert bool(stays) is reported
    for one in stays:
        assert one.fix is not None
        assert one.fix.apply(project).widget("w").options["keep"] == 7.0


@pytest.mark.parametrize(
    ("shown", "done", "at"),
    [
        ("..##...##...", "...#........", 7),
        ("..##...##...", ".......#....", None),  # it is learnt as it shows
        ("..##........", "...#........", None),
    ],
)
def test_a_prompt_shown_to_somebody_who_knows(shown: str, done: str, at: int | None, tmp_path: Path) -> None:
    columns = {"leak": flags(shown), "knows": flags(done)}
    knows = Variable(name="knows", type="bool")
    seed = Seed([prompt("leak", until="knows")], columns, project={"variables": (*VARIABLES, knows)})
    reported = listed(seed, "after-lesson", tmp_path)
    assert [one.start for one in reported] == ([at] if at is not None else [])


@pytest.mark.parametrize(
    ("beside", "reported"),
    [
        (widget("label", {"text": "Scrap"}, "other", place=at(100, 40)), False),
        (widget("label", {"text": "{hull}"}, "other", place=at(100, 40)), True),  # no word in it
        (widget("label", {"text": "Scrap"}, "other", place=at(1500, 900)), True),
        (widget("panel", {}, "other", place=at(100, 40)), True),
        (widget("picture", {}, "other", place=at(100, 40), options={"icon": "coin"}), False),
    ],
)
def test_a_number_is_named_by_words_or_an_icon_near_it(beside: Widget, reported: bool, tmp_path: Path) -> None:
    bare = widget("counter", {"value": "scrap"}, place=at(100, 100))
    assert bool(listed(Seed([bare, beside]), "no-caption", tmp_path)) is reported


@pytest.mark.parametrize(("y", "reported"), [(-20, True), (20, False)])
def test_a_screen_of_another_size_cuts_what_reaches_over_its_edge(y: float, reported: bool, tmp_path: Path) -> None:
    small = Screen(name="small", size=(640, 360))
    tall = widget("bar", {"value": "hull", "full": "100"}, place=at(0, y))
    seed = Seed([tall], project={"screens": (small,)})
    (off,) = listed(seed, "off-screen", tmp_path) or (None,)
    assert (off is not None) is reported
    if off is not None:
        assert off.short == "cut off on small"
        assert "7 pixels off" in off.why


@pytest.mark.parametrize(("opacity", "reported"), [("1", False), ("0.9", False), ("0.4", True), ("0.1", True)])
def test_letters_are_read_over_what_lies_under_them_as_strong_as_it_is(
    opacity: str, reported: bool, tmp_path: Path
) -> None:
    behind = widget("panel", {"opacity": opacity}, "behind", place=at(80, 80), look={"back": "#101418"})
    words = label("Two words", place=at(100, 100), look={"text": "#ffffff"})
    seed = Seed([behind, words], project={"plates": (PLATE,)}, files={"fog.svg": PALE})
    assert bool(listed(seed, "low-contrast", tmp_path)) is reported


def test_letters_that_grow_over_their_box_are_measured_on_a_screen_of_another_size(tmp_path: Path) -> None:
    small = Screen(name="small", size=(640, 360))
    tall = widget("label", {"text": "Ay"}, place=Place(offset=(100, 0), size=(300, 30)), look={"text_size": 90})
    (off,) = listed(Seed([tall], project={"screens": (small,)}), "off-screen", tmp_path)
    by = float(off.why.split(" is ")[1].split()[0])
    (large,) = listed(
        Seed([tall], project={"screens": (Screen(name="large", size=(1920, 1080)),)}), "off-screen", tmp_path
    )
    assert by == pytest.approx(float(large.why.split(" is ")[1].split()[0]) / 3, abs=0.7)
