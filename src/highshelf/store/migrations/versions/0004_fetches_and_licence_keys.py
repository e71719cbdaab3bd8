"""releases fetched from their makers, licence keys"""

import sqlalchemy as sa
import sqlmodel.sql.sqltypes
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    text, time = sqlmodel.sql.sqltypes.AutoString, sqlmodel.sql.sqltypes.UTCDateTime
    op.create_table(
        "fetch",
        sa.Column("id", text(), nullable=False),
        sa.Column("address", text(), nullable=False),
        sa.Column("file_name", text(), nullable=False),
        sa.Column("state", text(), nullable=False),
        sa.Column("accept", sa.JSON(), nullable=False),
        sa.Column("compare", sa.JSON(), nullable=False),
        sa.Column("done_bytes", sa.Integer(), nullable=False),
        sa.Column("total_bytes", sa.Integer(), nullable=True),
        sa.Column("tag", text(), nullable=False),
        sa.Column("tries", sa.Integer(), nullable=False),
        sa.Column("note", text(), nullable=False),
        sa.Column("cancel_asked", sa.Boolean(), nullable=False),
        sa.Column("error", sa.JSON(), nullable=True),
        sa.Column("release", text(), nullable=False),
        sa.Column("asked_by", text(), nullable=False),
        sa.Column("created_at", time(), nullable=False),
        sa.Column("finished_at", time(), nullable=True),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_fetch_state", "fetch", ["state"])
    op.create_table(
        "licence",
        sa.Column("id", text(), nullable=False),
        sa.Column("application", text(), nullable=False),
        sa.Column("account", text(), nullable=False),
        sa.Column("ending", text(), nullable=False),
        sa.Column("several", sa.Boolean(), nullable=False),
        sa.Column("used_by", sa.JSON(), nullable=False),
        sa.Column("created_at", time(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_licence_application", "licence", ["application"])
    op.create_index("ix_licence_account", "licence", ["account"])
    with op.batch_alter_table("release") as table:
        table.add_column(sa.Column("origin", sa.JSON(), nullable=False, server_default="{}"))


def downgrade() -> None:
    with op.batch_alter_table("release") as table:
        table.drop_column("origin")
    op.drop_table("licence")
    op.drop_table("fetch")
