"""What all tables of the ledger's file hang on, those of the lick catalogue too."""

from sqlalchemy.orm import DeclarativeBase


class Base(DeclarativeBase):
    """All tables of the ledger's file."""
