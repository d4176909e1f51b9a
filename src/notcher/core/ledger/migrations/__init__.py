"""Migrations of the ledger, oldest first; Alembic reads them from here."""
