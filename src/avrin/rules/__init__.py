"""The rule language: text -> tree -> steps -> values. Knows no widgets and no Qt."""

from avrin.rules.check import BUILT_IN, Events, Scope
from avrin.rules.common_subexpressions import (
    event_renamed_in,
    event_renamed_in_template,
    marked_part,
    marked_part_in_template,
    named_parts,
    named_parts_in_template,
    says_slot,
)
from avrin.rules.errors import RuleError
from avrin.rules.functions import FUNCTIONS, Function
from avrin.rules.language import Language, Said, locale_of
from avrin.rules.operators import AND, ORDER
from avrin.rules.parse import parse
from avrin.rules.parts import Written, part_at, word_before
from avrin.rules.rename import renamed, renamed_in_template
from avrin.rules.running import Running
from avrin.rules.scan import CHUNK, Scan, as_column, evaluate, plain_value
from avrin.rules.steps import Breakpoints, Carried, Chunk, Graph, Op, Params, Step, run_once
from avrin.rules.template import ICON_MARK, TEMPLATE, icon_pieces, split_template
from avrin.rules.what_if import Checkpoints, WhatIf, is_stateful, step_order

__all__ = [
    "AND",
    "BUILT_IN",
    "CHUNK",
    "FUNCTIONS",
    "ICON_MARK",
    "ORDER",
    "TEMPLATE",
    "Breakpoints",
    "Carried",
    "Checkpoints",
    "Chunk",
    "Events",
    "Function",
    "Graph",
    "Language",
    "Op",
    "Params",
    "RuleError",
    "Running",
    "Said",
    "Scan",
    "Scope",
    "Step",
    "WhatIf",
    "Written",
    "as_column",
    "evaluate",
    "event_renamed_in",
    "event_renamed_in_template",
    "icon_pieces",
    "is_stateful",
    "locale_of",
    "marked_part",
    "marked_part_in_template",
    "named_parts",
    "named_parts_in_template",
    "parse",
    "part_at",
    "plain_value",
    "renamed",
    "renamed_in_template",
    "run_once",
    "says_slot",
    "split_template",
    "step_order",
    "word_before",
]
