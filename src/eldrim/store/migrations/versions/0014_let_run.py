"""An edition whose sheet has changed may be let run by a trainer, with the reason."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Said for one revision of the sheet: the next change asks again. Never changed."""
    op.create_table(
        "let_run",
        sa.Column("edition_id", sa.Uuid, sa.ForeignKey("editions.id"), primary_key=True),
        sa.Column("revision", sa.Integer, primary_key=True),
        sa.Column("reason", sa.String(400), nullable=False),
        sa.Column("by", sa.String(40), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )
    op.execute(
        "CREATE TRIGGER keep_as_is BEFORE UPDATE OR DELETE ON let_run "
        "FOR EACH ROW EXECUTE FUNCTION keep_as_is()"
    )


def downgrade() -> None:
    """Nothing is let run."""
    op.drop_table("let_run")
