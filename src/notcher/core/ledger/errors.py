"""What can go wrong with the ledger."""

from pathlib import Path

from notcher.core.errors import NotcherError


class LedgerError(NotcherError):
    """The ledger cannot be opened or written."""


class DamagedLedgerError(LedgerError):
    """The file is no ledger, or not whole. copy: the newest copy that is whole, once it was looked for."""

    copy: Path | None = None


class StrangeRowError(LedgerError):
    """A row belongs to something that the ledger does not hold."""
