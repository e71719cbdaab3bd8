"""what the engine is still to be told, the epoch, records, known browsers, pinned certificates"""

import sqlalchemy as sa
from alembic import op
from sqlmodel.sql.sqltypes import AutoString

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "outbox",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("what", AutoString(), nullable=False),
        sa.Column("job_id", AutoString(), nullable=False, index=True),
        sa.Column("leg", AutoString(), nullable=False),
        sa.Column("mark", AutoString(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
    )
    op.create_table(
        "epoch", sa.Column("id", sa.Integer(), primary_key=True), sa.Column("number", sa.Integer(), nullable=False)
    )
    op.create_table(
        "record",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("who", AutoString(), nullable=False),
        sa.Column("kind", AutoString(), nullable=False, index=True),
        sa.Column("about", AutoString(), nullable=False, index=True),
        sa.Column("text", AutoString(), nullable=False),
    )
    op.create_table(
        "device",
        sa.Column("key_hash", AutoString(), primary_key=True),
        sa.Column("operator", AutoString(), nullable=False, index=True),
        sa.Column("ends_at", sa.DateTime(), nullable=False),
    )
    with op.batch_alter_table("account") as table:
        table.add_column(sa.Column("confirm_server", sa.Boolean(), nullable=False, server_default=sa.false()))
        table.add_column(sa.Column("certificate", AutoString(), nullable=False, server_default=""))
    with op.batch_alter_table("site") as table:
        table.add_column(sa.Column("certificate", AutoString(), nullable=False, server_default=""))
    with op.batch_alter_table("job") as table:
        table.add_column(sa.Column("run", sa.Integer(), nullable=False, server_default="0"))
    op.create_index("ix_event_job_id_id", "event", ["job_id", "id"])
    op.create_index("ix_job_created_at", "job", ["created_at", "id"])
    op.create_index("ix_job_finished_at", "job", ["finished_at"])


def downgrade() -> None:
    op.drop_index("ix_job_finished_at", "job")
    op.drop_index("ix_job_created_at", "job")
    op.drop_index("ix_event_job_id_id", "event")
    with op.batch_alter_table("job") as table:
        table.drop_column("run")
    with op.batch_alter_table("site") as table:
        table.drop_column("certificate")
    with op.batch_alter_table("account") as table:
        table.drop_column("certificate")
        table.drop_column("confirm_server")
    for name in ("device", "record", "epoch", "outbox"):
        op.drop_table(name)
