"""What a student's sheets are like."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("students", sa.Column("sheets", sa.Text, nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("students", "sheets")
