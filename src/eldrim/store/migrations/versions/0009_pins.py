"""A lead's PIN, to release a hold point on somebody else's screen."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """None until the lead sets one."""
    op.add_column("users", sa.Column("pin_hash", sa.String, nullable=True))


def downgrade() -> None:
    """Forget them."""
    op.drop_column("users", "pin_hash")
