"""Who did what is kept for leads to read; a run keeps the serial its unit had when it began."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Nothing in the trail is ever changed. Runs of before take the serial of today."""
    op.create_table(
        "audit",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column(
            "at",
            sa.DateTime(timezone=True),
            server_default=sa.func.clock_timestamp(),
            nullable=False,
            index=True,
        ),
        sa.Column("by", sa.String(80), nullable=False),
        sa.Column("act", sa.String(40), nullable=False),
        sa.Column("about", sa.String(120), nullable=False),
        sa.Column("said", JSONB, nullable=False),
    )
    op.execute(
        "CREATE TRIGGER keep_as_is BEFORE UPDATE OR DELETE ON audit "
        "FOR EACH ROW EXECUTE FUNCTION keep_as_is()"
    )
    op.add_column("runs", sa.Column("serial", sa.String(120), nullable=False, server_default=""))
    op.execute("UPDATE runs SET serial = units.serial FROM units WHERE units.id = runs.unit_id")


def downgrade() -> None:
    """The trail is dropped; runs go by the serial of their unit."""
    op.drop_column("runs", "serial")
    op.drop_table("audit")
