"""Students, their requests, lessons and passes; recordings by their content."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "students",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("guitar", sa.String(200), nullable=False),
        sa.Column("tuning", sa.String(200), nullable=False),
        sa.Column("string_set", sa.String(100), nullable=False),
        sa.Column("naming", sa.String(100), nullable=False),
        sa.Column("school", sa.String(40), nullable=False),
        sa.Column("notes", sa.Text, nullable=False),
        sa.Column("gone_at", sa.String(40), nullable=True),
    )
    op.create_table(
        "requests",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column("student_id", sa.String(64), sa.ForeignKey("students.id", ondelete="CASCADE"), nullable=False),
        sa.Column("title", sa.String(300), nullable=False),
        sa.Column("version", sa.String(300), nullable=False),
        sa.Column("stretch", sa.String(300), nullable=False),
        sa.Column("sound", sa.String(300), nullable=False),
        sa.Column("asked_at", sa.String(40), nullable=False),
        sa.Column("due", sa.String(40), nullable=False),
        sa.Column("document_id", sa.String(64), nullable=False),
        sa.Column("estimated_h", sa.Float, nullable=True),
        sa.Column("spent_h", sa.Float, nullable=False),
        sa.Column("note_count", sa.Integer, nullable=False),
        sa.Column("done_at", sa.String(40), nullable=False),
    )
    op.create_table(
        "lessons",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column("student_id", sa.String(64), sa.ForeignKey("students.id", ondelete="CASCADE"), nullable=False),
        sa.Column("document_id", sa.String(64), nullable=False),
        sa.Column("planned_for", sa.String(40), nullable=False),
        sa.Column("held_at", sa.String(40), nullable=False),
        sa.Column("minutes", sa.Float, nullable=False),
        sa.Column("plan", sa.JSON, nullable=False),
        sa.Column("did", sa.Text, nullable=False),
    )
    op.create_table(
        "passes",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column("student_id", sa.String(64), sa.ForeignKey("students.id", ondelete="CASCADE"), nullable=False),
        sa.Column("lesson_id", sa.String(64), sa.ForeignKey("lessons.id", ondelete="SET NULL"), nullable=True),
        sa.Column("document_id", sa.String(64), nullable=False),
        sa.Column("phrases", sa.String(2000), nullable=False),
        sa.Column("pace", sa.Float, nullable=False),
        sa.Column("result", sa.String(20), nullable=False),
        sa.Column("played_at", sa.String(40), nullable=False),
        sa.Column("take_id", sa.String(64), nullable=False),
    )
    op.create_index("passes_by_student", "passes", ["student_id", "document_id", "played_at"])
    op.create_table(
        "recordings",
        sa.Column("sha256", sa.String(64), primary_key=True),
        sa.Column("path", sa.String(4096), nullable=False),
        sa.Column("document_id", sa.String(64), nullable=False),
        sa.Column("seconds", sa.Float, nullable=False),
    )


def downgrade() -> None:
    for name in ("recordings", "passes", "lessons", "requests", "students"):
        op.drop_table(name)
