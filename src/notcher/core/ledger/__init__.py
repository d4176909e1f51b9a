"""What is kept beside the documents: the lick catalogue, in one SQLite file that nothing leaves."""

from notcher.core.ledger.catalogue import Catalogue, Found, Gathered
from notcher.core.ledger.query import Query, query_from_text
from notcher.core.ledger.store import Ledger, LedgerError

__all__ = ["Catalogue", "Found", "Gathered", "Ledger", "LedgerError", "Query", "query_from_text"]
