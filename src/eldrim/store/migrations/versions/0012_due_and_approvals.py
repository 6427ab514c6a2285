"""Several people approve one draft, and what is due may be withdrawn with a reason."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """An approval is one person's; a withdrawal is never changed."""
    op.drop_constraint("approvals_pkey", "approvals", type_="primary")
    op.create_primary_key("approvals_pkey", "approvals", ["procedure_id", "version", "by"])
    op.create_table(
        "due_withdrawals",
        sa.Column("run_id", sa.Uuid, sa.ForeignKey("runs.id"), primary_key=True),
        sa.Column("kind", sa.String(20), primary_key=True),
        sa.Column("reason", sa.String(400), nullable=False),
        sa.Column("by", sa.String(40), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )
    op.execute(
        "CREATE TRIGGER keep_as_is BEFORE UPDATE OR DELETE ON due_withdrawals "
        "FOR EACH ROW EXECUTE FUNCTION keep_as_is()"
    )


def downgrade() -> None:
    """One approval a draft, and everything is due again."""
    op.drop_table("due_withdrawals")
    op.execute(
        "DELETE FROM approvals a USING approvals b WHERE a.procedure_id = b.procedure_id "
        "AND a.version = b.version AND a.at > b.at"
    )
    op.drop_constraint("approvals_pkey", "approvals", type_="primary")
    op.create_primary_key("approvals_pkey", "approvals", ["procedure_id", "version"])
