"""Plural expressions of catalogues are not trusted: bounded, tried before use, and never able to stop a HUD."""

from __future__ import annotations

from pathlib import Path

import pytest

from avrin.errors import AvrinError
from avrin.i18n.catalogue import catalogue_path, codes_in, read_texts
from avrin.rules.language import _chooser, _form


def catalogue(folder: Path, forms: str) -> Path:
    (folder / "texts").mkdir(exist_ok=True)
    path = folder / "texts/de.po"
    head = f'"Content-Type: text/plain; charset=UTF-8\\n"\n"Plural-Forms: {forms}\\n"\n'
    path.write_text(f'msgid ""\nmsgstr ""\n{head}\nmsgid "Hull"\nmsgstr "Rumpf"\n')
    return path


def test_forms_that_languages_have_are_taken(tmp_path: Path) -> None:
    catalogue(tmp_path, "nplurals=3; plural=(n%10==1 && n%100!=11 ? 0 : n%10>=2 && n%10<=4 ? 1 : 2);")
    assert read_texts(tmp_path, "de").plurals == 3


@pytest.mark.parametrize(
    "forms",
    [
        "nplurals=2; plural=n%(n-5);",  # divides by zero at five
        "nplurals=2; plural=n-3;",  # negative
        "nplurals=2; plural=n;",  # too large
        "nplurals=2000000000; plural=0;",
        "nplurals=0; plural=0;",
        f"nplurals=2; plural={'(' * 60}n{')' * 60};",
        f"nplurals=2; plural={'+'.join(['n'] * 400)};",
        "nplurals=2; plural=__import__('os');",
    ],
)
def test_forms_that_cannot_be_used_are_reported_and_used_for_nothing(tmp_path: Path, forms: str) -> None:
    catalogue(tmp_path, forms)
    with pytest.raises(AvrinError) as raised:
        read_texts(tmp_path, "de")
    assert "plural" in raised.value.problem or "catalogue" in raised.value.problem


@pytest.mark.parametrize("plural", ["n%(n-1000)", "n-1000", "n"])
def test_a_number_that_no_form_is_for_takes_the_last_one(plural: str) -> None:
    choose = _chooser(plural)
    assert all(0 <= _form(choose, number, 1) <= 1 for number in (0, 1, 7, 999, 1000, 1001, 2**60))


def test_catalogues_behind_a_link_that_leads_out_are_none_of_the_projects(tmp_path: Path) -> None:
    outside, project = tmp_path / "outside", tmp_path / "project"
    outside.mkdir()
    project.mkdir()
    catalogue(outside, "nplurals=2; plural=n != 1;")
    (project / "texts").symlink_to(outside / "texts")
    assert codes_in(project) == []
    with pytest.raises(AvrinError, match="leaves the project's folder"):
        catalogue_path(project, "de")
    (project / "texts").unlink()
    (project / "texts").mkdir()
    (project / "texts/de.po").symlink_to(outside / "texts/de.po")
    with pytest.raises(AvrinError, match="leaves the project's folder"):
        catalogue_path(project, "de")
