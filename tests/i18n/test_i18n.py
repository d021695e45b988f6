"""Texts in other languages: what translators get, what comes back, what of it is shown, and in which order its letters stand."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.bound import Bound
from avrin.binding.tracks import Tracks
from avrin.cli import main
from avrin.errors import AvrinError
from avrin.i18n.extraction import template, updated, with_translation
from avrin.i18n.languages import in_language, language_codes, translation
from avrin.i18n.messages import messages, rewritten
from avrin.i18n.own_language import OWN
from avrin.i18n.pseudo import MADE_UP, MIRRORED, STRETCHED
from avrin.kinds.wrapping import wrapped
from avrin.project.project import Locale, Project, Screen, Variable, Widget
from avrin.render.bidi import in_order, right_to_left
from avrin.render.fonts import SANS, face, shape
from avrin.render.scene import scene
from avrin.rules.errors import RuleError
from avrin.rules.patterns import pattern
from avrin.rules.template import split_template
from avrin.storage.files import load, save
from avrin.trace.frames import Column, Trace

COUNTED = '{cells} {plural(cells, "cell", "cells")} left'
HEAD = 'msgid ""\nmsgstr ""\n"Content-Type: text/plain; charset=utf-8\\n"\n"Plural-Forms: {plural}\\n"\n'
POLISH = "nplurals=3; plural=(n==1 ? 0 : n%10>=2 && n%10<=4 && (n%100<10 || n%100>=20) ? 1 : 2);"
GERMAN = "nplurals=2; plural=(n != 1);"


def project(*texts: str, **more: object) -> Project:
    widgets = tuple(Widget(id=f"w{i}", kind="label", inputs={"text": text}) for i, text in enumerate(texts))
    return Project(
        variables=(Variable(name="hull", type="float"), Variable(name="cells", type="int")),
        widgets=widgets,
        **more,  # type: ignore[arg-type]
    )


def bound(folder: Path, *texts: str, **more: object) -> Bound:
    return bind(project(*texts, **more), folder=folder)


def spoken(item: Bound, code: str, hull: float | None = 12.5, cells: float | None = 5.0) -> list[str]:
    trace = Trace.make("t", [0.0], {"hull": Column.of([hull]), "cells": Column.of([cells])})
    tracks = Tracks(in_language(item, code), trace, Tracks(item, trace))
    return [str(tracks.state(widget, 0)["text"]) for widget in tracks.bound.widgets.values()]


def catalogue(folder: Path, code: str, *entries: str, plural: str = GERMAN) -> None:
    (folder / "texts").mkdir(exist_ok=True)
    (folder / "texts" / f"{code}.po").write_text("\n".join([HEAD.format(plural=plural), *entries]), "utf-8")


def said(text: str, translation: str) -> str:
    return f'msgid "{text}"\nmsgstr "{translation}"\n'


# -- what is a text, and what may stand for it -------------------------------------------------------------------------


def test_texts_are_those_with_words_each_once_with_all_its_places(tmp_path: Path) -> None:
    item = bound(
        tmp_path, "Air {hull | 0.0}", "{hull} / {cells}", "Air {hull | 0.0}", "{@coin} {cells}", COUNTED, "{{}} {hull"
    )
    assert [(m.single, m.many, m.count, len(m.places)) for m in messages(item)] == [
        ("Air {hull | 0.0}", "", "hull", 2),
        ("{cells} cell left", "{cells} cells left", "cells", 1),
    ]


def test_titles_of_a_table_are_texts_and_are_shown_translated(tmp_path: Path) -> None:
    catalogue(tmp_path, "de", said("diver", "Taucher"))
    table = Widget(id="t", kind="table", options={"columns": [{"title": "diver", "text": ""}], "empty": ""})
    item = bind(Project(widgets=(table,)), folder=tmp_path)
    assert [m.single for m in messages(item)] == ["diver"]
    assert in_language(item, "de").widgets["t"].options.columns[0].title == "Taucher"
    assert item.widgets["t"].options.columns[0].title == "diver"


@pytest.mark.parametrize(
    ("translation_", "shown"),
    [
        ("Luft {hull | 0.0}", "Luft 12,5"),  # German signs
        ("Luft: {hull}", "Luft: 12,5"),  # the pattern is the language's own
        ("Luft", "Luft"),
        ("Luft {hul}", "Air 12,5"),  # a value the text does not have: the text itself, with the language's numbers
        ("Luft {hull * 2}", "Air 12,5"),
        ("Luft {hull", "Air 12,5"),
        ("", "Air 12,5"),
    ],
)
def test_a_translation_says_what_its_text_says_or_is_not_used(tmp_path: Path, translation_: str, shown: str) -> None:
    catalogue(tmp_path, "de", said("Air {hull | 0.0}", translation_))
    item = bound(tmp_path, "Air {hull | 0.0}")
    assert spoken(item, "de") == [shown]
    assert spoken(item, OWN) == ["Air 12.5"]
    assert bool(translation(item, "de").faults) == shown.startswith("Air")


def test_words_in_a_rule_may_be_others_but_not_what_something_is_compared_with(tmp_path: Path) -> None:
    text = 'Hull {lower(\\"LOW\\")} {\\"a\\" == \\"a\\"}'
    item = bound(tmp_path, text.replace('\\"', '"'))
    catalogue(tmp_path, "de", said(text, 'Rumpf {lower(\\"KNAPP\\")}'))
    assert spoken(item, "de") == ["Rumpf knapp"]
    catalogue(tmp_path, "nl", said(text, 'Romp {\\"b\\" == \\"a\\"}'))
    assert spoken(item, "nl") == ["Hull low yes"]


@pytest.mark.parametrize(
    ("cells", "shown"),
    [
        (1, "1 ogniwo"),
        (2, "2 ogniwa"),
        (5, "5 ogniw"),
        (12, "12 ogniw"),
        (22, "22 ogniwa"),
        (1.5, "1,5 ogniw"),
        (None, "— ogniw"),
    ],
)
def test_plurals_are_the_languages_own(tmp_path: Path, cells: float | None, shown: str) -> None:
    forms = "\n".join(f'msgstr[{i}] "{{cells}} {word}"' for i, word in enumerate(("ogniwo", "ogniwa", "ogniw")))
    catalogue(
        tmp_path, "pl", f'msgid "{{cells}} cell left"\nmsgid_plural "{{cells}} cells left"\n{forms}\n', plural=POLISH
    )
    assert spoken(bound(tmp_path, COUNTED), "pl", cells=cells) == [shown]


def test_what_is_marked_to_be_looked_at_is_reported_and_not_shown(tmp_path: Path) -> None:
    catalogue(tmp_path, "de", "#, fuzzy\n" + said("Lost", "Gefunden"), said("Gone", "Weg"))
    item = bound(tmp_path, "Lost", "Hull")
    assert [(fault.sort, fault.text) for fault in translation(item, "de").faults] == [
        ("unsure", "Lost"), ("untranslated", "Hull"), ("gone", "Gone"),
    ]  # fmt: skip
    assert spoken(item, "de") == ["Lost", "Hull"]


# -- catalogues --------------------------------------------------------------------------------------------------------


def test_a_catalogue_brought_up_to_date_keeps_what_was_translated(tmp_path: Path) -> None:
    catalogue(tmp_path, "de", "# a note of the translator's\n" + said("Lost", "Verloren"), said("Gone", "Weg"))
    item = bound(tmp_path, "Lost", "Hull {hull}")
    ((path, data),) = updated(item, template(item), ["de"]).items()
    text = data.decode()
    assert 'msgid "Hull {hull}"\nmsgstr ""' in text
    assert "# a note of the translator's" in text
    assert '#~ msgid "Gone"' in text, "what is gone is kept aside"
    path.write_bytes(data)
    assert spoken(item, "de") == ["Verloren", "Hull 12,5"]
    ((_, again),) = updated(item, template(item), ["de"]).items()
    assert again == data


def test_a_text_is_translated_in_a_catalogue_that_is_there_or_not(tmp_path: Path) -> None:
    item = bound(tmp_path, "Lost", COUNTED)
    (tmp_path / "texts").mkdir()
    for number, forms in enumerate((["Verloren"], ["noch {cells} Zelle", "noch {cells} Zellen"])):
        path, data = with_translation(item, "de", messages(item)[number], forms)
        path.write_bytes(data)
    assert spoken(item, "de") == ["Verloren", "noch 5 Zellen"]
    assert spoken(item, "de", cells=1.0) == ["Verloren", "noch 1 Zelle"]


@pytest.mark.parametrize(
    "content",
    [b"\xff\xfe\x00", b"no catalogue", HEAD.format(plural="nplurals=2; plural=n(").encode(),
     HEAD.format(plural="nplurals=1; plural=n>1;").encode()],
)  # fmt: skip
def test_what_is_no_catalogue_is_one_line_and_the_project_is_as_it_was(tmp_path: Path, content: bytes) -> None:
    (tmp_path / "texts").mkdir()
    (tmp_path / "texts/de.po").write_bytes(content)
    with pytest.raises(AvrinError, match=r"de\.po"):
        translation(bound(tmp_path, "Lost"), "de")


def test_languages_are_those_with_a_catalogue_those_told_of_and_two_more(tmp_path: Path) -> None:
    catalogue(tmp_path, "th")
    assert language_codes(Project(languages=(Locale(code="ar"),)), tmp_path) == [OWN, "ar", "th", *MADE_UP]
    with pytest.raises(AvrinError, match="did you mean 'th'"):
        in_language(bound(tmp_path), "thh")


# -- the two that are made up ------------------------------------------------------------------------------------------


@given(st.text(alphabet="aeR {}d7~", max_size=30))
def test_made_up_languages_change_no_value_and_are_templates_again(text: str) -> None:
    try:
        pieces = [piece.rule for piece in split_template(text) if piece.rule is not None]
    except RuleError:
        return
    for make in MADE_UP.values():
        for made in make(messages(bind(project(text)))).translations.values():
            assert [piece.rule for piece in split_template(made.forms[0]) if piece.rule is not None] == pieces
    assert rewritten(text, lambda _rule, complete: complete) == text


def test_stretched_is_two_fifths_longer_and_mirrored_turns_words_and_no_numbers(tmp_path: Path) -> None:
    item = bound(tmp_path, "Seal the seam in {hull | 0} s, or 60")
    (long,) = spoken(item, STRETCHED)
    assert len([c for c in long if c.isalpha() or c == "~"]) >= 1.4 * len("Sealtheseaminsor")
    assert long[0] + long[-1] == "[]"
    assert "12" in long
    (turned,) = spoken(item, MIRRORED)
    assert [("".join(part), back) for part, back in in_order(turned)][-1] == ("Seal the seam in", True)
    assert ("60", False) in in_order(turned)


# -- letters in order --------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("text", "order"),
    [
        ("Hull 12", [("Hull 12", False)]),
        ("الهيكل 12", [("12", False), ("الهيكل ", True)]),  # a number is placed left of the word before it
        ("Hull الهيكل 12", [("Hull ", False), ("12", False), ("الهيكل ", True)]),
        ("\u200fHull 12 م", [(" م", True), ("Hull 12", False)]),
    ],
)
def test_stretches_stand_as_the_algorithm_of_unicode_says(text: str, order: list[tuple[str, bool]]) -> None:
    assert in_order(text) == order
    assert right_to_left(text) == (text[0] not in "H")


@given(st.text(alphabet="ab 12אבج.,(", max_size=20))
def test_no_letter_is_lost_or_doubled(text: str) -> None:
    assert sorted("".join(part for part, _ in in_order(text))) == sorted(text)


def test_joined_letters_are_shaped_in_their_own_direction() -> None:
    assert len(shape("لا", 20, SANS).glyphs) <= 2, "lam and alef join"
    first, second = shape("אב", 20, SANS).glyphs
    assert first.x < second.x
    assert face(SANS).has("\u200f"), "a mark needs no letter"


def test_a_mirrored_hud_hangs_at_the_other_side_and_its_texts_end_there(tmp_path: Path) -> None:
    catalogue(tmp_path, "ar", said("Lost", "ضاع"))
    item = bound(tmp_path, "Lost", languages=(Locale(code="ar", mirror=True),))
    trace = Trace.make("t", [0.0], {})
    screen = Screen(name="s", size=(1920, 1080))
    (plain,) = scene(Tracks(item, trace), 0, screen)
    (turned,) = scene(Tracks(in_language(item, "ar"), trace), 0, screen)
    assert turned.rect.x == 1920 - plain.rect.x - plain.rect.width
    assert turned.reach.x + turned.reach.width == pytest.approx(1920 - plain.reach.x, abs=3)
    (straight,) = scene(Tracks(in_language(item, "ar", mirror=False), trace), 0, screen)
    assert straight.rect == plain.rect


@pytest.mark.parametrize(
    ("source", "code", "value", "text"),
    [
        ("#,##0.0", "de", 1234.5, "1.234,5"), ("0.0", "de", -0.5, "-0,5"), ("", "fr", 2.25, "2,25"), ("m:ss", "de", 75, "1:15"),
        ("s.S", "de", 1.5, "1,5"), ("#,##,##0", "hi", 1234567, "12,34,567"), ("0", "xx", 3.0, "3"), ("0%", "de", 0.25, "25%"),
    ],
)  # fmt: skip
def test_numbers_have_the_languages_signs(source: str, code: str, value: float, text: str) -> None:
    import numpy as np
    from msgspec.structs import replace

    shown = replace(pattern(source), language=code)
    key = shown.keys(np.array([value]))[0]
    assert shown.written(key) == text
    assert shown.all_written([key]) == [text]


def test_lines_break_between_words_where_a_language_writes_no_spaces() -> None:
    text = "กลับไปที่ระฆัง เหลืออากาศ"
    lines = wrapped(text, 8, 9, len)
    assert "".join(lines).replace(" ", "") == text.replace(" ", "")
    assert len(lines) > 2
    assert all(len(line) <= 9 for line in lines)


# -- from outside ------------------------------------------------------------------------------------------------------


def test_the_commands_make_catalogues_bring_them_up_to_date_and_look_through_them(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "p.avrin"
    save(project("Lost", "Air {hull}"), path)
    assert main(["texts", "check", str(path)]) == 0
    assert main(["texts", "update", str(path)]) == 2
    assert main(["texts", "update", str(path), "de"]) == 0
    assert main(["texts", "extract", str(path)]) == 0
    assert 'msgid "Air {hull}"' in (tmp_path / "texts/p.pot").read_text("utf-8")
    capsys.readouterr()
    assert main(["texts", "extract", str(path)]) == 0
    assert capsys.readouterr().out == "", "nothing is written where nothing changed"
    assert main(["texts", "check", str(path)]) == 1
    assert "untranslated: Lost" in capsys.readouterr().out
    assert main(["texts", "check", str(path), "../x"]) == 2
    assert load(path)[0] == project("Lost", "Air {hull}")


def test_every_text_of_the_sample_is_in_its_three_languages(demo: Path) -> None:
    item = bind(load(demo)[0], folder=demo.parent)
    for code in ("de", "ar", "th"):
        read = translation(item, code)
        assert read.faults == ()
        letters = {
            letter for message in read.language.translations.values() for form in message.forms for letter in form
        }
        assert not [letter for letter in letters if not face(SANS).has(letter)], code
