"""What is kept beside the documents: the lick catalogue, in one SQLite file that nothing leaves."""

from notcher.core.ledger.catalogue import Catalogue, Found, Gathered
from notcher.core.ledger.query import Query, query_from_text
from notcher.core.ledger.record import Estimate, LoggedPass, Record, Request, Student, known_paces
from notcher.core.ledger.store import Ledger, LedgerError, back_up, backups, restore

__all__ = [
    "Catalogue",
    "Estimate",
    "Found",
    "Gathered",
    "Ledger",
    "LedgerError",
    "LoggedPass",
    "Query",
    "Record",
    "Request",
    "Student",
    "back_up",
    "backups",
    "known_paces",
    "query_from_text",
    "restore",
]
