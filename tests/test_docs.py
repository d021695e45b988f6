"""The pages that are made from the program are up to date, and what the README links to is there."""

from __future__ import annotations

import importlib.util
import re
from pathlib import Path
from typing import Any

import pytest

import dial
from avrin.kinds.registry import KINDS
from avrin.rules.functions.registry import FUNCTIONS
from avrin.rules.parse import parse
from reference import Reference

ROOT = Path(__file__).parent.parent
SHIPPED = {name: kind for name, kind in KINDS.items() if kind is not dial.KIND}


def maker(name: str) -> Any:
    spec = importlib.util.spec_from_file_location(name, ROOT / f"docs/{name}.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


def rules_page() -> Any:
    return maker("make_rules")


def test_the_page_of_widgets_and_its_pictures_are_the_programs_own() -> None:
    made = maker("make_widgets")
    assert (ROOT / "docs/widgets.md").read_text("utf-8") == made.page(SHIPPED.values())
    for name, kind in SHIPPED.items():
        assert (ROOT / f"docs/widgets/{name}.svg").read_text("utf-8") == made.picture(kind), name


def test_a_kind_of_ones_own_has_a_section_and_a_picture() -> None:
    made = maker("make_widgets")
    assert "## dial" in made.page([dial.KIND])
    assert "<svg" in made.picture(dial.KIND)


def test_the_page_of_rules_is_the_programs_own() -> None:
    assert (ROOT / "docs/rules.md").read_text("utf-8") == rules_page().page()


def test_the_page_of_findings_is_the_programs_own() -> None:
    assert (ROOT / "docs/findings.md").read_text("utf-8") == maker("make_findings").page()


def test_counts_in_prose_and_the_map_of_the_source_are_the_programs_own(monkeypatch: pytest.MonkeyPatch) -> None:
    made = maker("make_prose")
    monkeypatch.setitem(made.COUNTS, "kinds", len(SHIPPED))
    for page in made.PAGES:
        text = page.read_text("utf-8")
        assert text == made.filled(text), f"{page.name}: run docs/make_prose.py"
    assert "| **project** |" in text


@pytest.mark.parametrize("name", FUNCTIONS)
def test_every_example_on_the_page_gives_what_the_tables_say(name: str) -> None:
    page, example = rules_page(), FUNCTIONS[name].example
    if name == "text":
        assert page.worked(example)[:3] == ["30.0", "29.5", "28.9"]
        return
    for ours, plain in zip(page.worked(example), Reference(page.TRACE).values(parse(example)), strict=True):
        assert ours == (pytest.approx(plain, rel=1e-9) if isinstance(plain, float) else plain)


def test_links_of_the_readme_lead_somewhere() -> None:
    links = re.findall(r"\]\(([^)#]+)\)", (ROOT / "README.md").read_text("utf-8"))
    assert len(links) > 8
    for link in links:
        assert (ROOT / link).is_file(), link
