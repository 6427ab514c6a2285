"""The schema of version 0.2, whole: what an empty database begins with.

What came before it was brought up to it by version 0.2 itself.
"""

from pathlib import Path

from alembic import op

revision = "0023"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make every table, index and function."""
    made = (Path(__file__).parents[1] / "baseline.sql").read_text()
    # Past SQLAlchemy, which would look for parameters in it.
    op.get_bind().connection.cursor().execute(made)
