"""Reading and writing: the document, events, text tab, MusicXML. Every file is written whole or not at all."""

from notcher.core.formats.document.document import Document, read_document, read_score, write_document
from notcher.core.formats.document.recovery import AutosaveStore, Recovered, Recovery, TakeStream, Unsaved
from notcher.core.formats.events import read_events, write_events, write_pitch_csv
from notcher.core.formats.exports import EXPORTS, export
from notcher.core.formats.files.atomic import FileError, FileStamp, atomic_write, stamp_of
from notcher.core.formats.files.locks import OpenLock
from notcher.core.formats.import_result import ImportResult
from notcher.core.formats.imports import IMPORT_ENDINGS, is_importable, looks_like_tab, read_import, read_pasted
from notcher.core.formats.meaning import patterns_data, patterns_lines
from notcher.core.formats.musicxml.writing import musicxml_text
from notcher.core.formats.proof import proof_data, proof_lines
from notcher.core.formats.texttab.writing import text_tab

__all__ = [
    "EXPORTS",
    "IMPORT_ENDINGS",
    "AutosaveStore",
    "Document",
    "FileError",
    "FileStamp",
    "ImportResult",
    "OpenLock",
    "Recovered",
    "Recovery",
    "TakeStream",
    "Unsaved",
    "atomic_write",
    "export",
    "is_importable",
    "looks_like_tab",
    "musicxml_text",
    "patterns_data",
    "patterns_lines",
    "proof_data",
    "proof_lines",
    "read_document",
    "read_events",
    "read_import",
    "read_pasted",
    "read_score",
    "stamp_of",
    "text_tab",
    "write_document",
    "write_events",
    "write_pitch_csv",
]
