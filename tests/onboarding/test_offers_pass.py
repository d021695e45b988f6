"""Offers need no repair: over recordings of many genres each one passes every check, and says what was recorded."""

from __future__ import annotations

import functools
import math
from collections.abc import Callable

import numpy as np
import pytest

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.kinds.subject import Offer
from avrin.offers.offers import ranked
from avrin.onboarding.first_hud import first_hud
from avrin.onboarding.recordings import begun
from avrin.onboarding.sizing import sized
from avrin.project.project import Project, Recording, Widget
from avrin.trace.declare import guess
from avrin.trace.frames import Column, Trace
from genres import GENRES

LIVES, LIFE = 6, 900
AT = np.arange(LIVES * LIFE)
IN_LIFE = AT % LIFE


def arena() -> Trace:
    """Six lives of an arena, fifteen frames a second, times in whole thousandths: what real recordings have and trip over."""
    columns: dict[str, Column] = {
        "strength": Column("number", (248.0 - IN_LIFE * 52 / (LIFE - 1)).round()),
        "can_talk": Column("number", (np.sin(AT / 60) > 0.7).astype(float)),
        "won": Column("number", (IN_LIFE > 860).astype(float)),
        "lives": Column("number", 3.0 - IN_LIFE // 280),
        "spare_cells": Column("number", 9.0 - IN_LIFE // 100),
        "shells": Column("number", 6.0 - IN_LIFE % 600 // 100),
        "food": Column("number", (100 - IN_LIFE / 12.0).clip(0)),
        "nourishment": Column("number", (100 - IN_LIFE / 12.0).clip(0)),
        "high_score": Column("number", AT // 40 * 50.0),
        "score": Column("number", IN_LIFE // 40 * 50.0),
        "hp": Column("number", (104 - IN_LIFE / 7.0).round()),
        "oxygen_reserve_of_the_second_diver_in_the_water": Column("number", 100 - IN_LIFE / 10.0),
        "gold": Column("number", (500 - IN_LIFE // 3 * 2.0).clip(0)),
        "dbg[0].v": Column("number", IN_LIFE // 7 * 1.0),
        "dbg[1].v": Column("number", IN_LIFE // 9 * 1.0),
        "foe[0].name": Column.of(["Wilhelmina the Unbreakable of the Deep"] * len(AT)),
        "foe[1].name": Column.of(["Bo"] * len(AT)),
        "foe[0].score": Column("number", IN_LIFE // 7 * 1000.0),
        "foe[1].score": Column("number", IN_LIFE // 9 * 10.0),
    }
    return Trace.make("arena", (AT / 15).round(3), columns, (1 + AT // LIFE).tolist())


def rhythm() -> Trace:
    """Three songs: a combo that breaks, a gauge and shares that never reach their ends."""
    rng, frames = np.random.default_rng(5), np.arange(2400)
    at, beat = frames % 800, frames % 4 == 0
    hit = rng.random(2400) < 0.93
    last = np.maximum.accumulate(np.where((beat & ~hit) | (at == 0), frames, 0))
    combo = (frames - last) // 4
    misses = np.concatenate([np.cumsum((beat & ~hit)[start : start + 800]) for start in (0, 800, 1600)])
    gauge = np.concatenate(
        [np.cumsum(np.where(hit, 0.002, -0.02)[start : start + 800]) / 6 for start in (0, 800, 1600)]
    )
    columns = {
        "combo": Column("number", combo * 1.0),
        "life_gauge": Column("number", np.clip(0.5 + gauge, 0.02, 1).round(3)),
        "accuracy": Column("number", (100 - 100 * misses / (1 + at // 4)).clip(0, 100).round(2)),
        "misses": Column("number", misses * 1.0), "multiplier": Column("number", np.minimum(8.0, 1 + combo // 10)),
        "fever": Column("number", (combo > 30) * 1.0), "paused": Column("number", ((at > 300) & (at < 340)) * 1.0),
        "judgement": Column.of([("perfect", "good")[at % 3 == 0] if good else "miss" for at, good in enumerate(hit)]),
        "offset_ms": Column("number", rng.normal(0, 14, 2400).round(1)), "bpm": Column("number", np.full(2400, 174.0)),
    }  # fmt: skip
    return Trace.make("rhythm", at / 20, columns, (1 + frames // 800).tolist())


def towers() -> Trace:
    """One long siege: lives below nothing, gold that is spent, a boss missing for two thirds, four towers built one by one."""
    rng, at = np.random.default_rng(6), np.arange(3000)
    built = [np.where(at >= 300 * tower, 60.0 - (at * (tower + 1) // 9) % 61, np.nan) for tower in range(4)]
    columns = {
        "lives": Column("number", np.clip(20.0 - at // 140 - (at > 2400) * ((at - 2400) // 40), -3, 20)),
        "gold": Column("number", 150.0 + np.cumsum(rng.integers(0, 4, 3000)) - 400.0 * (at // 500)),
        "wave": Column("number", 1.0 + at // 500), "next_wave_in": Column("number", (500 - at % 500) / 10),
        "enemies": Column("number", np.abs(40 * np.sin(at % 500 / 160)).round()),
        "kills": Column("number", np.cumsum(rng.random(3000) < 0.1) * 1.0),
        "boss.hp": Column("number", np.where(at >= 2000, np.maximum(0.0, 9000.0 - (at - 2000) * 11), np.nan)),
        "boss.maxhp": Column("number", np.where(at >= 2000, 9000.0, np.nan)),
        **{f"tower[{number}].ammo": Column("number", ammo) for number, ammo in enumerate(built)},
    }  # fmt: skip
    return Trace.make("towers", at / 10, columns)


MADE: dict[str, Callable[[], Trace]] = {"arena": arena, "rhythm": rhythm, "towers": towers}
MADE |= {make.__name__: functools.partial(lambda make: make().trace, make) for make in GENRES}


@functools.cache
def taken(name: str) -> tuple[Project, Trace]:
    project, (named,) = begun([(Recording(path="traces/it.csv"), MADE[name]())])
    return project, named


@functools.cache
def offered(name: str) -> dict[str, Offer]:
    """Offers by the variable that they show first."""
    project, trace = taken(name)
    found = {}
    for offer in ranked(project, trace):
        inputs = offer.widget.inputs
        found[inputs.get("value") or inputs.get("when") or inputs.get("text") or offer.widget.id] = offer
    return found


def findings(project: Project, trace: Trace) -> list[str]:
    bound = bind(project)
    assert not bound.errors
    # A state that the recording does not show is not a fault of the widget.
    return [
        f"{one.code}: {one.why}" for one in Inspector(CHECKS).inspect(bound, [Tracks(bound, trace)])
        if one.code != "never-reached"
    ]  # fmt: skip


@pytest.mark.parametrize("name", MADE)
def test_every_offer_passes_every_check_as_offered(name: str) -> None:
    project, trace = taken(name)
    for offer in offered(name).values():
        base = offer.declared_in(project)
        assert findings(base.with_widget(sized(base, offer.widget, trace)), trace) == []


@pytest.mark.parametrize("name", MADE)
def test_a_first_hud_gives_no_finding(name: str) -> None:
    project, trace = taken(name)
    assert findings(first_hud(project, trace), trace) == []


def test_flags_in_figures_are_conditions_and_stay_whole_numbers() -> None:
    found = offered("arena")
    assert found["can_talk == 1"].widget.kind == "prompt"
    assert found["won == 1"].widget.kind == "banner"
    assert "keys" not in found["can_talk == 1"].widget.options
    types = {one.name: one.type for one in taken("arena")[0].variables}
    assert types["can_talk"] == types["won"] == "int"


def test_the_last_life_is_warned_of_and_none_left_is_seen() -> None:
    found = offered("arena")
    project, trace = taken("arena")
    for name, limit in (("lives", "50%"), ("spare_cells", "17%")):
        widget = found[name].widget
        assert (widget.kind, [(band.name, band.below) for band in widget.bands]) == ("pips", [("critical", limit)])
        tracks = Tracks(bind(project.with_widget(widget)), trace)
        values = trace.columns[name].data
        bands = [
            tracks.state(tracks.bound.widgets[widget.id], int(np.argmax(values == left)))["band"] for left in (1, 2)
        ]
        assert bands == ["critical", ""]
        assert widget.look["bands"]["critical"]["edge"]
    assert found["shells"].widget.kind == "pips"


def test_similar_needs_are_offered_alike() -> None:
    food, other = (offered("arena")[name].widget for name in ("food", "nourishment"))
    assert (food.kind, food.bands, food.options) == (other.kind, other.bands, other.options)
    assert food.bands


def test_what_falls_to_one_value_in_each_life_is_empty_there() -> None:
    offer = offered("arena")["strength"]
    assert (offer.widget.inputs["full"], offer.widget.inputs["empty"]) == ("248", "196")
    assert offer.why == "falls from 248 to 196, its lowest in every life: empty there"


def test_what_hardly_moves_is_reported_in_figures() -> None:
    assert offered("strategy")["townhall_hp"].widget.kind == "counter"


def test_what_is_counted_warns_of_nothing_and_what_programmers_see_is_no_table() -> None:
    assert not offered("arena")["gold"].widget.bands
    assert not [name for name in offered("arena") if name.startswith("dbg")]


def test_captions_say_the_true_number_and_repeat_no_digits_of_full() -> None:
    assert offered("arena")["hp"].widget.inputs["caption"] == "HP  {hp | 0}"


def test_nothing_that_only_grows_has_bands_and_whole_numbers_have_whole_limits() -> None:
    for name in MADE:
        for offer in offered(name).values():
            if offer.why.startswith(("only grows", "grows by 1 a second")):
                assert offer.widget.bands == ()
            for band in offer.widget.bands:
                limit = band.below or band.above
                variable = next(
                    (v for v in taken(name)[0].variables if v.name == offer.widget.inputs.get("value")), None
                )
                if variable is not None and variable.type == "int" and not limit.endswith("%"):
                    assert float(limit) == math.floor(float(limit))


def test_only_what_rises_over_all_lives_keeps_its_value() -> None:
    _, trace = taken("arena")
    kept = {name: guess(trace, name).keeps for name in ("high_score", "score", "lives", "won", "food")}
    assert kept == {"high_score": True, "score": False, "lives": False, "won": False, "food": False}


def test_texts_that_hang_at_the_right_stand_there() -> None:
    project, trace = taken("arena")
    hud = first_hud(project, trace, best=12)
    right = [one for one in hud.widgets if "right" in one.place.anchor and one.kind in ("counter", "label", "timer")]
    assert right
    assert all(one.look["align"] == "right" for one in right)
    assert all("align" not in one.look for one in hud.widgets if "left" in one.place.anchor)


def test_a_box_has_room_for_a_long_name() -> None:
    project, trace = taken("arena")
    name = "oxygen_reserve_of_the_second_diver_in_the_water"
    plain = offered("arena")[name].widget
    made = sized(project, plain, trace)
    assert made.place.size[0] > plain.place.size[0]
    assert made.place.size[1] == plain.place.size[1]


def test_what_cannot_be_bound_stays_as_it_is() -> None:
    project, trace = taken("arena")
    unknown = Widget(id="w", kind="no such kind")
    assert sized(project, unknown, trace) is unknown


def test_no_offer_is_larger_than_the_screen() -> None:
    """A number of three hundred digits is found as outgrowing, and gets no box that a file could not hold."""
    grows = Column("number", 10.0 ** (37 * np.arange(9)))
    recorded = Trace.make("huge", np.arange(9) / 4, {"score": grows})
    project, (trace,) = begun([(Recording(path="traces/it.csv"), recorded)])
    assert ranked(project, trace)
    for offer in ranked(project, trace):
        wide, high = sized(project, offer.widget, trace).place.size
        assert wide <= project.reference[0]
        assert high <= project.reference[1]
