"""The pages that are made from the program are up to date, and what the README links to is there."""

from __future__ import annotations

import importlib.util
import re
from pathlib import Path
from typing import Any

import pytest

from avrin.rules import FUNCTIONS, parse
from reference import Reference

ROOT = Path(__file__).parent.parent


def rules_page() -> Any:
    spec = importlib.util.spec_from_file_location("make_rules", ROOT / "docs/make_rules.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


def test_the_page_of_rules_is_the_programs_own() -> None:
    assert (ROOT / "docs/rules.md").read_text("utf-8") == rules_page().page()


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
