"""Bays have names, a run says in which it is done, and a lead may end one unfinished."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """What was done before was done anywhere, and to its end."""
    op.create_table("bays", sa.Column("name", sa.String(40), primary_key=True))
    op.add_column("runs", sa.Column("bay", sa.String(40), nullable=False, server_default=""))
    op.add_column(
        "runs", sa.Column("unfinished", sa.Boolean(), nullable=False, server_default=sa.false())
    )


def downgrade() -> None:
    """Bays are forgotten; runs ended unfinished look signed."""
    op.drop_column("runs", "unfinished")
    op.drop_column("runs", "bay")
    op.drop_table("bays")
