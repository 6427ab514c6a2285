"""Searches for a cause: procedures of one run, and what was proven to be behind complaints."""

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Every procedure so far is of a job."""
    op.add_column(
        "procedures", sa.Column("kind", sa.String(12), nullable=False, server_default="job")
    )
    op.create_table(
        "proven_causes",
        sa.Column("run_id", sa.Uuid(), sa.ForeignKey("runs.id"), primary_key=True),
        sa.Column("cause", sa.String(40), primary_key=True),
        sa.Column("kind", sa.String(40), nullable=False),
        sa.Column("engine_id", sa.String(48), nullable=False),
        sa.Column("share", sa.Float(), nullable=False),
    )
    op.create_index("proven_causes_kind", "proven_causes", ["kind", "cause"])
    op.create_table(
        "complaints",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("unit_id", sa.String(48), sa.ForeignKey("units.id"), nullable=False),
        sa.Column("said", sa.JSON(), nullable=False),
        sa.Column("words", sa.Text(), nullable=False),
        sa.Column("by", sa.String(40), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("over_why", sa.String(400), nullable=False, server_default=""),
        sa.Column("over_by", sa.String(40), nullable=False, server_default=""),
        sa.Column("over_at", sa.DateTime(timezone=True)),
    )
    op.create_index("complaints_of_unit", "complaints", ["unit_id", "at"])


def downgrade() -> None:
    """What was proven is forgotten; the runs that proved it stay."""
    op.drop_table("complaints")
    op.drop_table("proven_causes")
    op.drop_column("procedures", "kind")
