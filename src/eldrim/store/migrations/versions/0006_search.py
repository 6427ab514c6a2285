"""What can be searched for, kept beside what it is found in."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import TSVECTOR

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Words are taken as they are: part numbers and symbols are no language."""
    op.create_table(
        "search_entries",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("owner", sa.String(80), nullable=False, index=True),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("address", sa.String(300), nullable=False),
        sa.Column("title", sa.String(300), nullable=False),
        sa.Column("body", sa.Text, nullable=False),
        sa.Column(
            "words",
            TSVECTOR,
            sa.Computed(
                r"setweight(to_tsvector('simple', regexp_replace(title, '\W+', ' ', 'g')), 'A') || "
                r"setweight(to_tsvector('simple', regexp_replace(body, '\W+', ' ', 'g')), 'B')",
                persisted=True,
            ),
        ),
    )
    op.create_index("search_entries_words", "search_entries", ["words"], postgresql_using="gin")


def downgrade() -> None:
    """Forget the words."""
    op.drop_table("search_entries")
