"""The pages that a student keeps: engraved tab and staff, in that student's choices; geometry only."""

from notcher.core.sheets.choices import (
    CHOICES,
    ChoiceError,
    Easier,
    Lines,
    Names,
    Paper,
    Repeats,
    Sheet,
    SheetChoices,
    Size,
    choices_from,
    kept_choices,
    told_choices,
)
from notcher.core.sheets.errors import NothingToPrintError
from notcher.core.sheets.items import Arc, Box, Fill, Ink, Item, PathItem, Words
from notcher.core.sheets.page import Page, page_items
from notcher.core.sheets.pages import PageMaker
from notcher.core.sheets.typeface import FontMissingError, Typeface

__all__ = [
    "CHOICES",
    "Arc",
    "Box",
    "ChoiceError",
    "Easier",
    "Fill",
    "FontMissingError",
    "Ink",
    "Item",
    "Lines",
    "Names",
    "NothingToPrintError",
    "Page",
    "PageMaker",
    "Paper",
    "PathItem",
    "Repeats",
    "Sheet",
    "SheetChoices",
    "Size",
    "Typeface",
    "Words",
    "choices_from",
    "kept_choices",
    "page_items",
    "told_choices",
]
