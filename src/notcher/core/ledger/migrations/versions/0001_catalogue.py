"""The lick catalogue: documents and their phrases."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "sources",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("path", sa.String(4096), nullable=False, unique=True),
        sa.Column("document_id", sa.String(64), nullable=False, index=True),
        sa.Column("title", sa.String(1000), nullable=False),
        sa.Column("modified_ns", sa.Integer, nullable=False),
        sa.Column("size", sa.Integer, nullable=False),
    )
    op.create_table(
        "phrases",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("source_id", sa.Integer, sa.ForeignKey("sources.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("phrase_id", sa.String(64), nullable=False),
        sa.Column("name", sa.String(1000), nullable=False),
        sa.Column("start_s", sa.Float, nullable=False),
        sa.Column("end_s", sa.Float, nullable=False),
        sa.Column("count", sa.Integer, nullable=False),
        sa.Column("tonic", sa.Integer, nullable=False, index=True),
        sa.Column("scale", sa.String(40), nullable=False, index=True),
        sa.Column("hand_fret", sa.Integer, nullable=False),
        sa.Column("notes_per_s", sa.Float, nullable=False),
        sa.Column("degrees", sa.String, nullable=False),
        sa.Column("techniques", sa.String, nullable=False),
        sa.Column("functions", sa.String, nullable=False),
        sa.Column("chords", sa.String, nullable=False),
        sa.Column("steps", sa.LargeBinary, nullable=False),
        sa.Column("lengths", sa.LargeBinary, nullable=False),
        sa.Column("music", sa.JSON, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("phrases")
    op.drop_table("sources")
