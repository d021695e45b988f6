"""Bands made, called, moved, coloured, put first and taken away; look and pictures go along."""

from __future__ import annotations

import pytest

from avrin.edits.bands import (
    band_coloured,
    band_first,
    band_put,
    band_removed,
    band_renamed,
    band_sticky,
    conditioned,
    split,
)
from avrin.errors import AvrinError
from avrin.kinds.look import CRITICAL, LOW
from avrin.project.project import Band, Project, Widget

BARE = Widget(id="bar", kind="bar")
BOTH = Widget(
    id="bar", kind="bar", bands=(Band(name="critical", below="10%"), Band(name="low", below="25%", back="30%")),
    look={"fill": "#112233", "bands": {"low": {"fill": "#abcdef", "flash": "1s"}}},
)  # fmt: skip
SIGN = Widget(
    id="sign",
    kind="picture",
    bands=(Band(name="low", when="hull < 3"),),
    options={"asset": "a", "by_band": {"low": "b"}},
)


def names(widget: Widget) -> list[str]:
    return [band.name for band in widget.bands]


def test_the_first_splits_into_low_and_the_next_below_it_into_critical() -> None:
    one = split(BARE, "30%", 0.3, [])
    assert one.bands == (Band(name="low", below="30%"),)
    assert one.look == {"bands": {"low": {"fill": LOW}}}
    two = split(one, "10%", 0.1, [("low", 0.3)])
    assert names(two) == ["critical", "low"], "what is narrower comes first"
    assert two.look["bands"]["critical"] == {"fill": CRITICAL}
    three = split(two, "60%", 0.6, [("critical", 0.1), ("low", 0.3)])
    assert names(three) == ["critical", "low", "band"]
    four = split(three, "20%", 0.2, [("critical", 0.1), ("low", 0.3), ("band", 0.6)])
    assert names(four) == ["critical", "band_2", "low", "band"]


def test_where_bands_begin_above_so_does_the_new_one() -> None:
    hot = Widget(id="heat", kind="counter", bands=(Band(name="hot", above="80"),))
    more = split(hot, "95", 95, [("hot", 80)])
    assert more.bands == (Band(name="critical", above="95"), Band(name="hot", above="80"))
    assert more.look == {"bands": {"critical": {"text": CRITICAL}}}, "a counter's letters are coloured"
    assert names(split(hot, "50", 50, [("hot", 80)])) == ["hot", "band"]


def test_a_band_at_a_limit_of_another_stands_after_it_and_colours_are_reported_apart() -> None:
    hot = Widget(id="heat", kind="counter", bands=(Band(name="hot", above="80"),))
    assert names(split(hot, "80", 80, [("hot", 80)])) == ["hot", "band"]
    assert names(split(BOTH, "25%", 0.25, [("critical", 0.1), ("low", 0.25)])) == ["critical", "low", "band"]
    made = split(split(BOTH, "50%", 0.5, [("critical", 0.1), ("low", 0.25)]), "70%", 0.7, [("band", 0.5)])
    first, second = (made.look["bands"][name]["fill"] for name in ("band", "band_2"))
    assert first != second
    assert first not in (LOW, CRITICAL)


def test_a_condition_comes_first() -> None:
    made = conditioned(BOTH)
    assert made.bands[0] == Band(name="band", when="false")
    assert made.bands[1:] == BOTH.bands
    assert conditioned(made).bands[0].name == "band_2"


def test_a_limit_moves_alone_or_with_its_back() -> None:
    assert band_put(BOTH, "low", "20%").bands[1] == Band(name="low", below="20%", back="30%")
    assert band_put(BOTH, "low", "20%", "25%").bands[1] == Band(name="low", below="20%", back="25%")
    above = Widget(id="a", kind="bar", bands=(Band(name="hot", above="80%"),))
    assert band_put(above, "hot", "70%").bands == (Band(name="hot", above="70%"),)
    assert band_sticky(BOTH, "low", "").bands[1] == Band(name="low", below="25%")


def test_a_band_is_coloured_and_looks_as_outside_again() -> None:
    made = band_coloured(BOTH, "critical", "fill", "#ff0000")
    assert made.look["bands"] == {"low": {"fill": "#abcdef", "flash": "1s"}, "critical": {"fill": "#ff0000"}}
    assert band_coloured(made, "critical", "fill", None) == BOTH
    bare = band_coloured(band_coloured(BOTH, "low", "fill", None), "low", "flash", None)
    assert bare.look == {"fill": "#112233"}, "no empty objects are left"


def test_first_means_one_place_further_to_the_front() -> None:
    assert names(band_first(BOTH, "low")) == ["low", "critical"]
    assert band_first(BOTH, "critical") == BOTH
    assert names(band_first(conditioned(BOTH), "low")) == ["band", "low", "critical"]


def test_removed_it_leaves_nothing_behind() -> None:
    assert band_removed(BOTH, "low").look == {"fill": "#112233"}
    assert names(band_removed(BOTH, "low")) == ["critical"]
    assert band_removed(SIGN, "low").options == {"asset": "a"}


def test_another_name_takes_look_picture_and_ignored_findings_along() -> None:
    hush = ({"code": "x", "of": "bar", "about": "low"}, {"code": "x", "of": "sign", "about": "low"})
    project = Project(widgets=(BOTH, SIGN), hush=hush)
    made = band_renamed(project, "bar", "low", " rather weak ")
    assert names(made.widget("bar")) == ["critical", "rather_weak"]
    assert made.widget("bar").look["bands"] == {"rather_weak": {"fill": "#abcdef", "flash": "1s"}}
    assert made.widget("sign") == SIGN
    assert [one["about"] for one in made.hush] == ["rather_weak", "low"]
    assert band_renamed(project, "sign", "low", "weak").widget("sign").options["by_band"] == {"weak": "b"}
    assert band_renamed(project, "bar", "low", "low") is project


@pytest.mark.parametrize(
    ("name", "why"),
    [
        ("", "not a valid"),
        ("a b!", "not a valid"),
        ("critical", "already"),
        ("hidden", "state"),
        ("x" * 81, "not a valid"),
    ],
)
def test_names_that_cannot_be(name: str, why: str) -> None:
    with pytest.raises(AvrinError, match=why):
        band_renamed(Project(widgets=(BOTH,)), "bar", "low", name)
