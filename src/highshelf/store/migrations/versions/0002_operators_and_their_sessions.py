"""operators and their sessions"""

import sqlalchemy as sa
import sqlmodel.sql.sqltypes
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    text, time = sqlmodel.sql.sqltypes.AutoString, sqlmodel.sql.sqltypes.UTCDateTime
    op.create_table(
        "operator",
        sa.Column("name", text(), nullable=False),
        sa.Column("password", text(), nullable=False),
        sa.Column("created_at", time(), nullable=False),
        sa.Column("signed_in_at", time(), nullable=True),
        sa.PrimaryKeyConstraint("name"),
    )
    op.create_table(
        "invitation",
        sa.Column("code_hash", text(), nullable=False),
        sa.Column("operator", text(), nullable=False),
        sa.Column("created_at", time(), nullable=False),
        sa.Column("ends_at", time(), nullable=False),
        sa.PrimaryKeyConstraint("code_hash"),
    )
    op.create_table(
        "session",
        sa.Column("id", text(), nullable=False),
        sa.Column("key_hash", text(), nullable=False),
        sa.Column("operator", text(), nullable=False),
        sa.Column("agent", text(), nullable=False),
        sa.Column("created_at", time(), nullable=False),
        sa.Column("seen_at", time(), nullable=False),
        sa.Column("ends_at", time(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_session_key_hash", "session", ["key_hash"], unique=True)
    op.create_index("ix_session_operator", "session", ["operator"])


def downgrade() -> None:
    for table in ("session", "invitation", "operator"):
        op.drop_table(table)
