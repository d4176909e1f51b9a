"""Takes, wishes, what was given out, documents; the scale length of a student's guitar, the size of a recording."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def _student() -> sa.Column[str]:
    return sa.Column("student_id", sa.String(64), sa.ForeignKey("students.id", ondelete="CASCADE"), nullable=False)


def upgrade() -> None:
    op.add_column("students", sa.Column("scale_mm", sa.Float, nullable=False, server_default="0"))
    op.add_column("recordings", sa.Column("size", sa.Integer, nullable=False, server_default="0"))
    op.create_table(
        "documents",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column("practice_id", sa.String(64), nullable=False),
        sa.Column("title", sa.String(1000), nullable=False),
        sa.Column("path", sa.String(4096), nullable=False),
        sa.Column("note_count", sa.Integer, nullable=False),
        sa.Column("phrases", sa.JSON, nullable=False),
    )
    op.create_index("ix_documents_practice_id", "documents", ["practice_id"])
    op.create_table(
        "takes",
        sa.Column("id", sa.String(64), primary_key=True),
        _student(),
        sa.Column("document_id", sa.String(64), nullable=False),
        sa.Column("name", sa.String(1000), nullable=False),
        sa.Column("phrases", sa.String(2000), nullable=False),
        sa.Column("start_s", sa.Float, nullable=False),
        sa.Column("end_s", sa.Float, nullable=False),
        sa.Column("pace", sa.Float, nullable=False),
        sa.Column("along", sa.String(40), nullable=False),
        sa.Column("begin_s", sa.Float, nullable=True),
        sa.Column("made_at", sa.String(40), nullable=False),
        sa.Column("gone_at", sa.String(40), nullable=True),
    )
    op.create_index("ix_takes_student_id", "takes", ["student_id"])
    op.create_table(
        "wishes",
        sa.Column("id", sa.String(130), primary_key=True),
        _student(),
        sa.Column("document_id", sa.String(64), nullable=False),
        sa.Column("wishes", sa.JSON, nullable=False),
    )
    op.create_table(
        "sent",
        sa.Column("id", sa.String(64), primary_key=True),
        _student(),
        sa.Column("document_id", sa.String(64), nullable=False),
        sa.Column("title", sa.String(1000), nullable=False),
        sa.Column("sent_at", sa.String(40), nullable=False),
        sa.Column("music", sa.JSON, nullable=False),
    )
    op.create_table("moved", sa.Column("id", sa.String(64), primary_key=True))


def downgrade() -> None:
    for name in ("moved", "sent", "wishes", "takes", "documents"):
        op.drop_table(name)
    op.drop_column("recordings", "size")
    op.drop_column("students", "scale_mm")
