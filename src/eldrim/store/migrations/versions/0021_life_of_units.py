"""Companion work among what a job asks; what an unplanned stop of a unit costs, and severe use."""

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Every job so far has no companions."""
    op.execute(
        "UPDATE procedures SET job = job || '{\"companions\": []}'::jsonb "
        "WHERE NOT job ? 'companions'"
    )
    op.add_column("units", sa.Column("stop_cost", sa.Float()))
    op.add_column(
        "units", sa.Column("severe", sa.Boolean(), nullable=False, server_default=sa.false())
    )


def downgrade() -> None:
    """Take them away again."""
    op.drop_column("units", "severe")
    op.drop_column("units", "stop_cost")
    op.execute("UPDATE procedures SET job = job - 'companions'")
