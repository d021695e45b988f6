"""Write docs/findings.md from the checks themselves. Run it after adding or changing one."""

from __future__ import annotations

from pathlib import Path

from avrin.findings import CHECKS, FAMILIES

TARGET = Path(__file__).with_name("findings.md")

HEAD = """# Findings

What the checks look for, over all recordings of a project, all its screens and plates. This page is made from the program
itself (`docs/make_findings.py`). They run in the background as one edits, and on the command line:

```
./avrin check brinehook.avrin                                        # over the project's own recordings
./avrin check brinehook.avrin --trace recordings/ --format sarif --out findings.sarif   # or text, json, junit
./avrin check brinehook.avrin --fail-on error                        # exit status 1 only for errors; 2: could not run
```

No frame is left out: what is drawn is judged as if each frame of each recording were drawn on each screen. Only while a film
behind the HUD was not looked through yet, the window judges texts over a picture close before; it looks again as soon as it was.

Where one finding follows from another, the cause is told and counted, and what follows stands under it: mended or hushed,
the cause takes them along.

A finding that somebody decides to live with is hushed with a reason, which the project keeps. `./avrin demo --troubled` opens a
project with many faults, to walk through.
"""


def page() -> str:
    """The whole page."""
    parts = [HEAD, f"\nThere are {len(CHECKS)} kinds.\n"]
    for family in FAMILIES:
        title = (family.__doc__ or "").split("\n")[0]
        parts.append(f"\n## {title}\n\n| code | severity | what it catches |\n|---|---|---|\n")
        parts += [f"| `{check.code}` | {check.severity} | {check.help} |\n" for check in family.CHECKS]
    return "".join(parts)


if __name__ == "__main__":
    TARGET.write_text(page(), encoding="utf-8")
