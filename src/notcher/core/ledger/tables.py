"""The tables of the record, made from the values that stand in them: a change there needs a migration of its own.

A field's type decides its column; what a row belongs to is told by the field's name.
"""

from collections.abc import Mapping
from dataclasses import MISSING, Field
from typing import Any, get_args, get_origin, get_type_hints

from sqlalchemy import JSON, Column, Double, ForeignKey, Index, Integer, String, Table
from sqlalchemy.types import TypeEngine

from notcher.core.ledger.base import Base
from notcher.core.ledger.values import KINDS, LedgerRow, stored_fields

BELONGS_TO = {"student_id": ("students.id", "CASCADE"), "lesson_id": ("lessons.id", "SET NULL")}
"""Which row a field names, and what happens to this one when that one goes."""
INDEXES = {
    "passes": ("student_id", "document_id", "played_at"),
    "takes": ("student_id",),
    "documents": ("practice_id",),
}


def _column(field: "Field[Any]", hint: Any) -> Column[Any]:
    nullable = type(None) in get_args(hint)
    default = None if field.default is MISSING else field.default
    if field.default_factory is not MISSING and field.name != "id":
        default = field.default_factory
    belongs = BELONGS_TO.get(field.name)
    keys = [] if belongs is None else [ForeignKey(belongs[0], ondelete=belongs[1])]
    return Column(
        field.name, _kind(hint), *keys, primary_key=field.name == "id", nullable=nullable,
        default=list if default == () else default,
    )  # fmt: skip


def _kind(hint: Any) -> TypeEngine[Any]:
    kinds = (hint, *get_args(hint))
    if float in kinds:
        return Double()
    if int in kinds:
        return Integer()
    return JSON() if any(get_origin(kind) is Mapping for kind in kinds) else String()


def _table(name: str, kind: type[LedgerRow]) -> Table:
    columns = [_column(field, get_type_hints(owner)[field.name]) for owner, field in stored_fields(kind)]
    if all(column.name != "id" for column in columns):  # what follows from others, kept to be found by
        columns.insert(0, Column("id", String(), primary_key=True))
    columns.sort(key=lambda column: not column.primary_key)
    return Table(name, Base.metadata, *columns)


TABLES = {name: _table(name, kind) for name, kind in KINDS.items()}
for _name, _columns in INDEXES.items():
    Index(f"{_name}_by_{_columns[0].removesuffix('_id')}", *(TABLES[_name].c[column] for column in _columns))
