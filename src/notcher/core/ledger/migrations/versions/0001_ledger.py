"""Everything: the lick catalogue and the record of students."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def _text(name: str) -> "sa.Column[str]":
    return sa.Column(name, sa.String, nullable=False)


def upgrade() -> None:
    op.create_table(
        "sources",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("path", sa.String, nullable=False, unique=True),
        _text("document_id"),
        _text("title"),
        sa.Column("modified_ns", sa.Integer, nullable=False),
        sa.Column("size", sa.Integer, nullable=False),
    )
    op.create_table(
        "phrases",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("source_id", sa.Integer, sa.ForeignKey("sources.id", ondelete="CASCADE"), nullable=False),
        _text("phrase_id"),
        _text("name"),
        sa.Column("start_s", sa.Double, nullable=False),
        sa.Column("end_s", sa.Double, nullable=False),
        sa.Column("count", sa.Integer, nullable=False),
        sa.Column("tonic", sa.Integer, nullable=False),
        _text("scale"),
        sa.Column("hand_fret", sa.Integer, nullable=False),
        sa.Column("notes_per_s", sa.Double, nullable=False),
        _text("degrees"),
        _text("techniques"),
        _text("functions"),
        _text("chords"),
        sa.Column("steps", sa.LargeBinary, nullable=False),
        sa.Column("lengths", sa.LargeBinary, nullable=False),
        sa.Column("music", sa.JSON, nullable=False),
    )
    op.create_table(
        "students",
        sa.Column("id", sa.String, primary_key=True),
        _text("name"),
        _text("guitar"),
        _text("tuning"),
        _text("string_set"),
        _text("naming"),
        _text("lesson_order"),
        _text("notes"),
        sa.Column("scale_mm", sa.Double, nullable=False),
        _text("sheets"),
        sa.Column("gone_at", sa.String, nullable=True),
    )
    op.create_table(
        "documents",
        sa.Column("id", sa.String, primary_key=True),
        _text("practice_id"),
        _text("title"),
        _text("path"),
        sa.Column("note_count", sa.Integer, nullable=False),
        sa.Column("phrases", sa.JSON, nullable=False),
    )
    op.create_table(
        "recordings",
        sa.Column("id", sa.String, primary_key=True),
        _text("path"),
        _text("document_id"),
        sa.Column("seconds", sa.Double, nullable=False),
        sa.Column("size", sa.Integer, nullable=False),
    )
    op.create_table(
        "requests",
        sa.Column("id", sa.String, primary_key=True),
        sa.Column("student_id", sa.String, sa.ForeignKey("students.id", ondelete="CASCADE"), nullable=False),
        _text("title"),
        _text("version"),
        _text("stretch"),
        _text("sound"),
        _text("asked_at"),
        _text("due"),
        _text("document_id"),
        sa.Column("estimated_h", sa.Double, nullable=True),
        sa.Column("spent_h", sa.Double, nullable=False),
        sa.Column("note_count", sa.Integer, nullable=False),
        _text("done_at"),
    )
    op.create_table(
        "lessons",
        sa.Column("id", sa.String, primary_key=True),
        sa.Column("student_id", sa.String, sa.ForeignKey("students.id", ondelete="CASCADE"), nullable=False),
        _text("document_id"),
        _text("planned_for"),
        _text("held_at"),
        sa.Column("minutes", sa.Double, nullable=False),
        sa.Column("plan", sa.JSON, nullable=False),
        _text("did"),
    )
    op.create_table(
        "takes",
        sa.Column("id", sa.String, primary_key=True),
        sa.Column("student_id", sa.String, sa.ForeignKey("students.id", ondelete="CASCADE"), nullable=False),
        _text("document_id"),
        sa.Column("gone_at", sa.String, nullable=True),
        _text("name"),
        _text("phrases"),
        sa.Column("start_s", sa.Double, nullable=False),
        sa.Column("end_s", sa.Double, nullable=False),
        sa.Column("pace", sa.Double, nullable=False),
        _text("along"),
        sa.Column("begin_s", sa.Double, nullable=True),
        _text("made_at"),
    )
    op.create_table(
        "passes",
        sa.Column("id", sa.String, primary_key=True),
        sa.Column("student_id", sa.String, sa.ForeignKey("students.id", ondelete="CASCADE"), nullable=False),
        _text("document_id"),
        _text("phrases"),
        sa.Column("pace", sa.Double, nullable=False),
        _text("result"),
        _text("played_at"),
        _text("take_id"),
        sa.Column("lesson_id", sa.String, sa.ForeignKey("lessons.id", ondelete="SET NULL"), nullable=True),
    )
    op.create_table(
        "wishes",
        sa.Column("id", sa.String, primary_key=True),
        sa.Column("student_id", sa.String, sa.ForeignKey("students.id", ondelete="CASCADE"), nullable=False),
        _text("document_id"),
        sa.Column("wishes", sa.JSON, nullable=False),
    )
    op.create_table(
        "sent",
        sa.Column("id", sa.String, primary_key=True),
        sa.Column("student_id", sa.String, sa.ForeignKey("students.id", ondelete="CASCADE"), nullable=False),
        _text("document_id"),
        _text("title"),
        _text("sent_at"),
        sa.Column("music", sa.JSON, nullable=False),
    )
    op.create_index("ix_sources_document_id", "sources", ["document_id"])
    op.create_index("ix_phrases_scale", "phrases", ["scale"])
    op.create_index("ix_phrases_source_id", "phrases", ["source_id"])
    op.create_index("ix_phrases_tonic", "phrases", ["tonic"])
    op.create_index("documents_by_practice", "documents", ["practice_id"])
    op.create_index("takes_by_student", "takes", ["student_id"])
    op.create_index("passes_by_student", "passes", ["student_id", "document_id", "played_at"])


def downgrade() -> None:
    for name in (
        "sent",
        "wishes",
        "passes",
        "takes",
        "lessons",
        "requests",
        "recordings",
        "documents",
        "students",
        "phrases",
        "sources",
    ):
        op.drop_table(name)
