"""The tool crib by version."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Versions are only ever added, like editions."""
    op.create_table(
        "tool_crib",
        sa.Column("version", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("reason", sa.String(400), nullable=False),
        sa.Column("by", sa.String(40), nullable=False),
        sa.Column(
            "at",
            sa.DateTime(timezone=True),
            server_default=sa.func.clock_timestamp(),
            nullable=False,
        ),
    )
    op.execute(
        "CREATE TRIGGER keep_as_is BEFORE UPDATE OR DELETE ON tool_crib "
        "FOR EACH ROW EXECUTE FUNCTION keep_as_is()"
    )


def downgrade() -> None:
    """Forget them."""
    op.drop_table("tool_crib")
