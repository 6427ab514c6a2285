"""Photos by their digest, what is being taken in, and the edits an edition was made with."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

TIME = sa.DateTime(timezone=True)


def upgrade() -> None:
    """A photo is never changed: an edition names it by what is in it."""
    op.create_table(
        "images",
        sa.Column("digest", sa.String(64), primary_key=True),
        sa.Column("data", sa.LargeBinary, nullable=False),
        sa.Column("width", sa.Integer, nullable=False),
        sa.Column("height", sa.Integer, nullable=False),
        sa.Column("by", sa.String(40), nullable=False),
        sa.Column("at", TIME, server_default=sa.func.now(), nullable=False),
    )
    op.execute(
        "CREATE TRIGGER keep_as_is BEFORE UPDATE OR DELETE ON images "
        "FOR EACH ROW EXECUTE FUNCTION keep_as_is()"
    )
    op.create_table(
        "take_ins",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("about", sa.String(80), nullable=False),
        sa.Column("data", sa.LargeBinary, nullable=False),
        sa.Column("by", sa.String(40), nullable=False),
        sa.Column("at", TIME, server_default=sa.func.now(), nullable=False),
    )
    op.add_column(
        "procedures", sa.Column("review", sa.String(200), server_default="", nullable=False)
    )
    op.add_column("editions", sa.Column("edits", sa.JSON, server_default="{}", nullable=False))


def downgrade() -> None:
    """Forget them."""
    op.drop_column("editions", "edits")
    op.drop_column("procedures", "review")
    op.drop_table("take_ins")
    op.drop_table("images")
