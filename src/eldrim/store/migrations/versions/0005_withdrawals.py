"""Editions withdrawn, and drafts approved by another person."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """An edition itself never changes; that it is withdrawn stands beside it."""
    op.create_table(
        "withdrawals",
        sa.Column("edition_id", sa.Uuid, sa.ForeignKey("editions.id"), primary_key=True),
        sa.Column("reason", sa.String(400), nullable=False),
        sa.Column("by", sa.String(40), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )
    op.execute(
        "CREATE TRIGGER keep_as_is BEFORE UPDATE OR DELETE ON withdrawals "
        "FOR EACH ROW EXECUTE FUNCTION keep_as_is()"
    )
    op.create_table(
        "approvals",
        sa.Column("procedure_id", sa.Uuid, sa.ForeignKey("procedures.id"), primary_key=True),
        sa.Column("version", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("by", sa.String(40), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )


def downgrade() -> None:
    """Forget both."""
    op.drop_table("approvals")
    op.drop_table("withdrawals")
