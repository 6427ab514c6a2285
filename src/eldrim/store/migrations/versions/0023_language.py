"""The language a person reads pages in; none where the browser is asked."""

import sqlalchemy as sa
from alembic import op

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Everybody reads as their browser asks until they choose."""
    op.add_column("users", sa.Column("language", sa.String(8)))


def downgrade() -> None:
    """What was chosen is gone."""
    op.drop_column("users", "language")
