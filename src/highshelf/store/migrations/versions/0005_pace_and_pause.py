"""a limit of the rate for an account, jobs that rest"""

import sqlalchemy as sa
import sqlmodel.sql.sqltypes
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("account") as table:
        table.add_column(sa.Column("pace_kb", sa.Integer(), nullable=False, server_default="0"))
    with op.batch_alter_table("job") as table:
        table.add_column(sa.Column("pause", sqlmodel.sql.sqltypes.AutoString(), nullable=False, server_default=""))


def downgrade() -> None:
    with op.batch_alter_table("job") as table:
        table.drop_column("pause")
    with op.batch_alter_table("account") as table:
        table.drop_column("pace_kb")
