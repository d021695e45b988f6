"""Write docs/findings.md from the checks themselves. Run it after adding or changing one."""

from __future__ import annotations

from pathlib import Path

from avrin.findings.registry import CHECKS, FAMILIES

TARGET = Path(__file__).with_name("findings.md")

HEAD = """# Findings

The checks, which run over all recordings of a project, all its screens and plates. This page is generated from the program
(`docs/make_findings.py`). Checks run in the background during editing, and on the command line:

```
./avrin check brinehook.avrin                                        # over the project's own recordings
./avrin check brinehook.avrin --trace recordings/ --format sarif --out findings.sarif   # or text, json, junit
./avrin check brinehook.avrin --fail-on error                        # exit status 1 only for errors; 2: could not run
```

No frame is skipped: results are as if each frame of each recording were drawn on each screen. Only until a film
behind the HUD is analysed, the window judges texts over a nearby frame; it checks again afterwards.

If one finding follows from another, the cause is reported and counted, with its consequences below it; fixing or ignoring
the cause includes them.

A finding can be ignored with a reason, which is saved in the project. `./avrin demo --troubled` opens a
project with many problems.
"""


def page() -> str:
    """The whole page."""
    parts = [HEAD, f"\nThere are {len(CHECKS)} checks.\n"]
    for family in FAMILIES:
        title = (family.__doc__ or "").split("\n")[0]
        parts.append(f"\n## {title}\n\n| code | severity | what it catches |\n|---|---|---|\n")
        parts += [f"| `{check.code}` | {check.severity} | {check.help} |\n" for check in family.CHECKS]
    return "".join(parts)


if __name__ == "__main__":
    TARGET.write_text(page(), encoding="utf-8")
