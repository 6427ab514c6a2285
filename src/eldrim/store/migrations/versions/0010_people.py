"""People come and leave; what they wrote keeps their name."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Nobody has left yet."""
    op.add_column("users", sa.Column("left_on", sa.DateTime(timezone=True), nullable=True))


def downgrade() -> None:
    """Everybody is back."""
    op.drop_column("users", "left_on")
