"""notices: where they go, those on their way, and how far events were read for them"""

import sqlalchemy as sa
from alembic import op
from sqlmodel.sql.sqltypes import AutoString

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "notice_place",
        sa.Column("id", AutoString(), primary_key=True),
        sa.Column("kind", AutoString(), nullable=False),
        sa.Column("target", AutoString(), nullable=False),
        sa.Column("what", sa.JSON(), nullable=False),
        sa.Column("account", AutoString(), nullable=False),
        sa.Column("server", sa.JSON(), nullable=False),
        sa.Column("silent", sa.Boolean(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
    )
    op.create_table(
        "notice",
        sa.Column("id", AutoString(), primary_key=True),
        sa.Column("place", AutoString(), nullable=False, index=True),
        sa.Column("job", AutoString(), nullable=False),
        sa.Column("notice", sa.JSON(), nullable=False),
        sa.Column("state", AutoString(), nullable=False, index=True),
        sa.Column("tries", sa.Integer(), nullable=False),
        sa.Column("error", AutoString(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.Column("due_at", sa.DateTime(), nullable=False),
        sa.Column("ended_at", sa.DateTime(), nullable=True),
    )
    op.create_table(
        "read_up_to",
        sa.Column("name", AutoString(), primary_key=True),
        sa.Column("event", sa.Integer(), nullable=False),
    )


def downgrade() -> None:
    for table in ("read_up_to", "notice", "notice_place"):
        op.drop_table(table)
