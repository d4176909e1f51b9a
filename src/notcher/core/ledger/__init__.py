"""What is kept beside the documents: the lick catalogue and the record of students, in one SQLite file.

Here is what is quick to load: the values. What opens, reads and writes the file is in `store`, `record`, `catalogue`.
"""

from notcher.core.ledger.book import LEAST_DONE, USUAL_NOTES_AN_HOUR, Book, Estimate
from notcher.core.ledger.errors import DamagedLedgerError, LedgerError
from notcher.core.ledger.values import (
    NOBODY,
    NOBODY_ID,
    NOT_SAID,
    Change,
    KeptTake,
    KnownDocument,
    KnownRecording,
    Lesson,
    LoggedPass,
    Practised,
    Request,
    Row,
    Sent,
    Student,
    Wished,
    columns_of,
    row_of,
)

__all__ = [
    "LEAST_DONE",
    "NOBODY",
    "NOBODY_ID",
    "NOT_SAID",
    "USUAL_NOTES_AN_HOUR",
    "Book",
    "Change",
    "DamagedLedgerError",
    "Estimate",
    "KeptTake",
    "KnownDocument",
    "KnownRecording",
    "LedgerError",
    "Lesson",
    "LoggedPass",
    "Practised",
    "Request",
    "Row",
    "Sent",
    "Student",
    "Wished",
    "columns_of",
    "row_of",
]
