"""A HUD's texts in every language: extraction, catalogues and their errors. Knows no Qt."""

from avrin.i18n.catalogue import FOLDER, catalogue_path, catalogue_stamp, codes_in, kept_po, read_po
from avrin.i18n.extraction import template, updated, with_translation
from avrin.i18n.languages import (
    Fault,
    Translation,
    forms,
    in_language,
    language_codes,
    language_name,
    translation,
    why_not,
)
from avrin.i18n.messages import Message, messages
from avrin.i18n.own_language import OWN
from avrin.i18n.pseudo import MADE_UP, MIRRORED, STRETCHED

__all__ = [
    "FOLDER",
    "MADE_UP",
    "MIRRORED",
    "OWN",
    "STRETCHED",
    "Fault",
    "Message",
    "Translation",
    "catalogue_path",
    "catalogue_stamp",
    "codes_in",
    "forms",
    "in_language",
    "kept_po",
    "language_codes",
    "language_name",
    "messages",
    "read_po",
    "template",
    "translation",
    "updated",
    "why_not",
    "with_translation",
]
