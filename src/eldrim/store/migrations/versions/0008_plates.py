"""What stands on a unit's plate, and how its variant was told."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """A unit that was there before is taken as it is."""
    op.add_column("units", sa.Column("letters", sa.String(40), server_default="", nullable=False))
    op.add_column("units", sa.Column("year", sa.Integer, nullable=True))
    op.add_column("units", sa.Column("told_by", sa.String(200), server_default="", nullable=False))


def downgrade() -> None:
    """Forget them."""
    for name in ("told_by", "year", "letters"):
        op.drop_column("units", name)
