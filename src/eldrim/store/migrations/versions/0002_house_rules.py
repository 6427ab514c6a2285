"""House rules by version, and the departures of a procedure from them."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Rules are only ever added, like editions."""
    op.create_table(
        "house_rules",
        sa.Column("version", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("reason", sa.String(400), nullable=False),
        sa.Column("by", sa.String(40), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )
    op.execute(
        "CREATE TRIGGER keep_as_is BEFORE UPDATE OR DELETE ON house_rules "
        "FOR EACH ROW EXECUTE FUNCTION keep_as_is()"
    )
    op.add_column("procedures", sa.Column("departures", JSONB, nullable=False, server_default="{}"))


def downgrade() -> None:
    """Forget them."""
    op.drop_column("procedures", "departures")
    op.drop_table("house_rules")
