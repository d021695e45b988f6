"""Change a widget's kind, preserving its value, words, bands and everything else that fits."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from avrin.errors import AvrinError, nearest
from avrin.kinds.kind import Kind
from avrin.kinds.registry import KINDS
from avrin.project.numbers import rule_number
from avrin.project.project import Band, Project, Widget
from avrin.rules.errors import RuleError
from avrin.rules.template import split_template

__all__ = ["kind_changed", "kind_losses"]

FULL = "100"  # if full is unknown


class _About(Struct, frozen=True):
    """A widget's subject. rule: its number, "" for none; pattern: its format; words: its description."""

    rule: str = ""
    pattern: str = ""
    words: str = ""


def kind_changed(project: Project, ident: str, kind: str) -> Project:
    """Return the project with a widget changed to another kind, with its position, value, words, bands and what fits.

    Raises AvrinError for an unknown kind.
    """
    if kind not in KINDS:
        close = nearest(kind, KINDS)
        raise AvrinError(f"there is no kind '{kind}'" + (f": did you mean '{close}'?" if close else ""))
    widget, new = project.widget(ident), KINDS[kind]
    before = KINDS.get(widget.kind)
    takes = {one.name: one.kind for one in new.all_inputs()}
    had = {one.name: one.kind for one in before.all_inputs()} if before is not None else {}
    same = {n: rule for n, rule in widget.inputs.items() if n in takes and takes[n] == had.get(n, takes[n])}
    inputs, options = same, _fitting(widget.options, new.options)
    if before is not None:
        about = _about(widget, before)
        inputs = {**same, **_subject_inputs(about, new, takes, same)}
        if new.share and about.rule:
            inputs.setdefault("full", _full(project, about.rule))
        if about.pattern and "pattern" in new.options.__struct_fields__:
            options = _fitting({"pattern": about.pattern, **options}, new.options)
        bands = tuple(_band(band, before, new, about.rule, {**widget.inputs, **inputs}) for band in widget.bands)
        widget = replace(widget, bands=bands)
    return project.with_widget(
        replace(widget, kind=kind, inputs=inputs, options=options, look=_look(widget.look, new.look))
    )


def kind_losses(before: Widget, after: Widget) -> list[str]:
    """Return the names of fields that a change of kind has lost."""
    new = KINDS[after.kind]
    carried = {*KINDS[before.kind].main_inputs(), KINDS[before.kind].words} if before.kind in KINDS else set()
    if not new.main_inputs() or not after.inputs:
        carried = set()
    gone = [name for name in before.inputs if name not in after.inputs and name not in carried]
    gone += [name for name in before.options if name not in after.options]
    return gone + [name for name in before.look if name not in after.look and name != "bands"]


def _about(widget: Widget, kind: Kind) -> _About:
    """Return a widget's subject, from its number and words, or from the single value in its words."""
    words = widget.inputs.get(kind.words, "")
    number = next((n for n in kind.main_inputs() if {i.name: i.kind for i in kind.inputs}[n] == "number"), "")
    if number:
        return _About(widget.inputs.get(number, ""), str(widget.options.get("pattern", "")), words)
    try:
        pieces = split_template(words) if kind.words in kind.main_inputs() else []
    except RuleError:
        pieces = []
    values = [piece for piece in pieces if piece.rule is not None]
    if len(values) != 1 or values[0].rule is None:
        return _About(words=words)
    (value,) = values
    inside = words[value.at : words.index("}", value.at + len(value.rule or ""))]
    rule, bar, pattern = inside.rpartition("|")
    plain = " ".join("".join(piece.text for piece in pieces if piece.rule is None).split())
    if bar and rule.strip() == (value.rule or "").strip():
        return _About(rule.strip(), pattern.strip(), plain)
    return _About((value.rule or "").strip(), "", plain)


def _subject_inputs(about: _About, new: Kind, takes: Mapping[str, str], same: dict[str, str]) -> dict[str, str]:
    """Return the inputs that express the subject in another kind."""
    found: dict[str, str] = {}
    numbers = [name for name in new.main_inputs() if takes[name] == "number"]
    if numbers and about.rule:
        found[numbers[0]] = about.rule
    told = about.words
    if not numbers and about.rule and new.words and f"{{{about.rule}" not in about.words:
        value = f"{{{about.rule}{f' | {about.pattern}' if about.pattern else ''}}}"
        told = f"{about.words} {value}".strip()
    if new.words and told and (new.words not in same or not numbers):
        found[new.words] = told
    return found


def _full(project: Project, rule: str) -> str:
    """Return full for a rule that is a variable with an upper end; else 100."""
    variable = project.all_variables().get(rule)
    return rule_number(variable.high) if variable is not None and variable.high else FULL


def _band(band: Band, before: Kind, new: Kind, rule: str, inputs: dict[str, str]) -> Band:
    """Convert a band to another level: shares of full, numbers, or, without a level, a condition."""
    full = inputs.get("full", FULL)
    if band.when or not rule:
        return band
    limits = {part: getattr(band, part) for part in ("below", "above", "back") if getattr(band, part)}
    if before.share != new.share and (new.share or _has_level(new)):
        return replace(band, **{part: _scaled(text, full, to_share=new.share) for part, text in limits.items()})
    if _has_level(new) or new.share or not _has_level(before):
        return band
    numbers = {part: _scaled(text, full, to_share=False) if before.share else text for part, text in limits.items()}
    sign, back = ("<", ">=") if band.below else (">", "<=")
    when = f"{rule} {sign} {numbers.get('below') or numbers.get('above')}"
    if band.back:
        when = f"latch({when}, {rule} {back} {numbers['back']})"
    return replace(band, below="", above="", back="", when=when)


def _has_level(kind: Kind) -> bool:
    """Return whether bands of a kind compare a number with limits."""
    kinds = {one.name: one.kind for one in kind.inputs}
    return any(kinds[name] == "number" for name in kind.main_inputs())


def _scaled(text: str, full: str, *, to_share: bool) -> str:
    """Convert a limit to a share of full, or back; computed if both are plain numbers."""
    try:
        limit = float(text.strip().removesuffix("%")) / (100 if text.strip().endswith("%") else 1)
        whole = float(full)
        return f"{100 * limit / whole:g}%" if to_share else f"{limit * whole:g}"
    except (ValueError, ZeroDivisionError):
        return f"({text}) / ({full})" if to_share else f"({text}) * ({full})"


def _look(raw: dict[str, object], struct: type[Struct]) -> dict[str, object]:
    """Return the fields of a look, and of its bands, that another kind has too."""
    fitting, bands = _fitting(raw, struct), raw.get("bands")
    if isinstance(bands, dict):
        fitting["bands"] = {name: _fitting(one, struct) for name, one in bands.items() if isinstance(one, dict)}
    return fitting


def _fitting(raw: dict[str, object], struct: type[Struct]) -> dict[str, object]:
    """Return the fields another struct has too, with values it accepts."""
    found: dict[str, object] = {}
    for name, value in raw.items():
        try:
            if name in struct.__struct_fields__:
                msgspec.convert({name: value}, struct)
                found[name] = value
        except msgspec.ValidationError:
            continue
    return found
