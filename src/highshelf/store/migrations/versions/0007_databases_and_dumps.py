"""databases that belong to no installation, and dumps"""

import sqlalchemy as sa
from alembic import op
from sqlmodel.sql.sqltypes import AutoString

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "database",
        sa.Column("id", AutoString(), primary_key=True),
        sa.Column("account", AutoString(), nullable=False, index=True),
        *(
            sa.Column(name, AutoString(), nullable=False)
            for name in ("name", "user", "kind", "host", "port", "made_by")
        ),
        sa.Column("facts", sa.JSON(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.UniqueConstraint("account", "name"),
    )
    op.create_table(
        "dump",
        sa.Column("id", AutoString(), primary_key=True),
        sa.Column("name", AutoString(), nullable=False),
        sa.Column("account", AutoString(), nullable=False, index=True),
        *(
            sa.Column(name, AutoString(), nullable=False)
            for name in ("database", "job", "kind", "packed", "encoding", "insists")
        ),
        sa.Column("size_bytes", sa.Integer(), nullable=False),
        sa.Column("unpacked_bytes", sa.Integer(), nullable=False),
        sa.Column("sha256", AutoString(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("dump")
    op.drop_table("database")
