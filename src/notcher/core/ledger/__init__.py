"""The record of students, kept beside the documents in one SQLite file, which the lick catalogue lies in as well.

Here is what is quick to load: the values. What opens, reads and writes the file is in `store` and `record`.
"""

from notcher.core.ledger.book import LEAST_DONE, USUAL_NOTES_AN_HOUR, Book, Estimate
from notcher.core.ledger.errors import LedgerError
from notcher.core.ledger.values import (
    NOBODY,
    NOBODY_ID,
    NOT_SAID,
    KeptTake,
    KnownDocument,
    KnownRecording,
    LedgerRow,
    Lesson,
    LoggedPass,
    Practised,
    Request,
    RowChange,
    Sent,
    Student,
    Wished,
)

__all__ = [
    "LEAST_DONE",
    "NOBODY",
    "NOBODY_ID",
    "NOT_SAID",
    "USUAL_NOTES_AN_HOUR",
    "Book",
    "Estimate",
    "KeptTake",
    "KnownDocument",
    "KnownRecording",
    "LedgerError",
    "LedgerRow",
    "Lesson",
    "LoggedPass",
    "Practised",
    "Request",
    "RowChange",
    "Sent",
    "Student",
    "Wished",
]
