"""Engines being captured: every state of the drawing, and which is the present one."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """States are dropped when a new branch of edits begins, or the sheet is kept."""
    op.create_table(
        "engine_drafts",
        sa.Column("engine_id", sa.String(48), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("what", sa.String(200), nullable=False),
        sa.Column("by", sa.String(40), nullable=False),
        sa.Column(
            "at",
            sa.DateTime(timezone=True),
            server_default=sa.func.clock_timestamp(),
            nullable=False,
        ),
    )
    op.create_table(
        "engine_draft_heads",
        sa.Column("engine_id", sa.String(48), primary_key=True),
        sa.Column("number", sa.Integer, nullable=False),
    )
    op.create_table(
        "teardown_taps",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("engine_id", sa.String(48), nullable=False, index=True),
        sa.Column("act", sa.String(8), nullable=False),
        sa.Column("what", sa.String(48), nullable=False),
        sa.Column(
            "at",
            sa.DateTime(timezone=True),
            server_default=sa.func.clock_timestamp(),
            nullable=False,
        ),
    )


def downgrade() -> None:
    """Forget what is being captured."""
    op.drop_table("teardown_taps")
    op.drop_table("engine_draft_heads")
    op.drop_table("engine_drafts")
