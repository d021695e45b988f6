"""The pages that are made from the program are up to date, and what the README links to is there."""

from __future__ import annotations

import importlib.util
import re
from pathlib import Path

ROOT = Path(__file__).parent.parent


def test_the_page_of_rules_is_the_programs_own() -> None:
    spec = importlib.util.spec_from_file_location("make_rules", ROOT / "docs/make_rules.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    assert (ROOT / "docs/rules.md").read_text("utf-8") == module.page()


def test_links_of_the_readme_lead_somewhere() -> None:
    links = re.findall(r"\]\(([^)#]+)\)", (ROOT / "README.md").read_text("utf-8"))
    assert len(links) > 8
    for link in links:
        assert (ROOT / link).is_file(), link
