"""Widget kinds: inputs, tracks and shapes; binding of projects to rules. Knows no layout, fonts or Qt."""

from avrin.widgets.assets import Asset
from avrin.widgets.binding import Bound, BoundWidget, UnfedError, bind
from avrin.widgets.declarations import all_declared, declared, followed, linked, rename, undeclare, with_variable
from avrin.widgets.derived import derived_users, extracted, free_name, without_derived
from avrin.widgets.drop_results import Dropped, dropped, position_pair, repeated
from avrin.widgets.event_kinds import event_declared, event_renamed, event_undeclared
from avrin.widgets.glyph_sheet import GlyphSheet
from avrin.widgets.icons import ICONS
from avrin.widgets.kind import (
    COMMON_INPUTS,
    EDGES,
    Addition,
    Cell,
    Drawing,
    Edge,
    Grip,
    Input,
    Kind,
    KindSample,
    State,
    TrackColumn,
)
from avrin.widgets.kind_samples import sample_project, sample_widget
from avrin.widgets.live import Live
from avrin.widgets.look import CALM, CRITICAL, LOW, Colour, KeyName, Look, Sides, Typeface, field_names, seconds
from avrin.widgets.missing_glyphs import missing_glyphs, unwritten
from avrin.widgets.offers import free_id, hung, names_it, offers, offers_of_all, placed_at, ranked
from avrin.widgets.own_examples import own_example
from avrin.widgets.places import BAND_RULES, RulePlace, is_template, place_title, rule_at, rule_places, with_rule
from avrin.widgets.plain_words import words_in
from avrin.widgets.proportions import DrawnBox, drawn_box, in_effect, own_size
from avrin.widgets.registry import KINDS
from avrin.widgets.schema import project_schema
from avrin.widgets.shapes import (
    Align,
    Box,
    Clip,
    Font,
    Group,
    Measure,
    NineSlice,
    Path,
    Picture,
    Shape,
    TextRun,
    hatched,
)
from avrin.widgets.states import BROKEN, HIDDEN, MISSING, OFF, SHOWING, STATE_WORDS, state_label
from avrin.widgets.subject import Offer, Seen, Subject
from avrin.widgets.tracks import Tracks, changes, new_steps, track
from avrin.widgets.transitions import popping_rule
from avrin.widgets.used_files import drawn_with, files_used, in_texts_of

__all__ = [
    "BAND_RULES",
    "BROKEN",
    "CALM",
    "COMMON_INPUTS",
    "CRITICAL",
    "EDGES",
    "HIDDEN",
    "ICONS",
    "KINDS",
    "LOW",
    "MISSING",
    "OFF",
    "SHOWING",
    "STATE_WORDS",
    "Addition",
    "Align",
    "Asset",
    "Bound",
    "BoundWidget",
    "Box",
    "Cell",
    "Clip",
    "Colour",
    "Drawing",
    "DrawnBox",
    "Dropped",
    "Edge",
    "Font",
    "GlyphSheet",
    "Grip",
    "Group",
    "Input",
    "KeyName",
    "Kind",
    "KindSample",
    "Live",
    "Look",
    "Measure",
    "NineSlice",
    "Offer",
    "Path",
    "Picture",
    "RulePlace",
    "Seen",
    "Shape",
    "Sides",
    "State",
    "Subject",
    "TextRun",
    "TrackColumn",
    "Tracks",
    "Typeface",
    "UnfedError",
    "all_declared",
    "bind",
    "changes",
    "declared",
    "derived_users",
    "drawn_box",
    "drawn_with",
    "dropped",
    "event_declared",
    "event_renamed",
    "event_undeclared",
    "extracted",
    "field_names",
    "files_used",
    "followed",
    "free_id",
    "free_name",
    "hatched",
    "hung",
    "in_effect",
    "in_texts_of",
    "is_template",
    "linked",
    "missing_glyphs",
    "names_it",
    "new_steps",
    "offers",
    "offers_of_all",
    "own_example",
    "own_size",
    "place_title",
    "placed_at",
    "popping_rule",
    "position_pair",
    "project_schema",
    "ranked",
    "rename",
    "repeated",
    "rule_at",
    "rule_places",
    "sample_project",
    "sample_widget",
    "seconds",
    "state_label",
    "track",
    "undeclare",
    "unwritten",
    "with_rule",
    "with_variable",
    "without_derived",
    "words_in",
]
