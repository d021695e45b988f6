"""A HUD's texts in every language: extraction, catalogues and their errors. Knows no Qt."""

from avrin.texts.catalogue import FOLDER, catalogue_path, catalogue_stamp, codes_in, kept_po, read_po
from avrin.texts.extracting import template, updated, with_translation
from avrin.texts.languages import (
    Fault,
    Translation,
    forms,
    in_language,
    language_codes,
    said_language,
    translation,
    why_not,
)
from avrin.texts.made_up import MADE_UP, MIRRORED, STRETCHED
from avrin.texts.messages import Message, messages
from avrin.texts.own import OWN

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
    "messages",
    "read_po",
    "said_language",
    "template",
    "translation",
    "updated",
    "why_not",
    "with_translation",
]
