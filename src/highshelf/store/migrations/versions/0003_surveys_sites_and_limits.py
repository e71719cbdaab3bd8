"""surveys, further sites of an account, places, limits learned"""

import sqlalchemy as sa
import sqlmodel.sql.sqltypes
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    text, time = sqlmodel.sql.sqltypes.AutoString, sqlmodel.sql.sqltypes.UTCDateTime
    op.create_table(
        "survey",
        sa.Column("id", text(), nullable=False),
        sa.Column("kind", text(), nullable=False),
        sa.Column("account", text(), nullable=False),
        sa.Column("state", text(), nullable=False),
        sa.Column("accept_identity", sa.Boolean(), nullable=False),
        sa.Column("lines", sa.JSON(), nullable=False),
        sa.Column("error", sa.JSON(), nullable=True),
        sa.Column("started_at", time(), nullable=False),
        sa.Column("finished_at", time(), nullable=True),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_survey_account", "survey", ["account"])
    op.create_table(
        "site",
        sa.Column("account", text(), nullable=False),
        sa.Column("address", text(), nullable=False),
        sa.Column("root", text(), nullable=False),
        sa.Column("reach", text(), nullable=False),
        sa.Column("proven_at", time(), nullable=True),
        sa.PrimaryKeyConstraint("account", "address"),
    )
    with op.batch_alter_table("account") as table:
        table.add_column(sa.Column("agent", sa.Boolean(), nullable=False, server_default=sa.false()))
        table.add_column(sa.Column("limits", sa.JSON(), nullable=False, server_default="{}"))
        table.add_column(sa.Column("places", sa.JSON(), nullable=False, server_default="{}"))
    # What checks of before wrote was text for people; a survey writes for programs too.
    op.execute("UPDATE account SET facts = '{}'")


def downgrade() -> None:
    with op.batch_alter_table("account") as table:
        for name in ("agent", "limits", "places"):
            table.drop_column(name)
    op.drop_table("site")
    op.drop_index("ix_survey_account", "survey")
    op.drop_table("survey")
