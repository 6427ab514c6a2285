"""A workshop of one's own: its first code, where people are signed in, tablets heard of."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    """Sign-ins of before count as seen now. What tablets said last may be lost with a crash."""
    op.create_table(
        "first_start",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("code_hash", sa.String(64), nullable=False),
        sa.Column("at", MOMENT, server_default=sa.func.now(), nullable=False),
        sa.CheckConstraint("id = 1", name="only_one"),
    )
    op.create_table(
        "known_devices",
        sa.Column("token_hash", sa.String(64), primary_key=True),
        sa.Column(
            "user_name",
            sa.String(40),
            sa.ForeignKey("users.name", ondelete="CASCADE"),
            primary_key=True,
        ),
        sa.Column("at", MOMENT, server_default=sa.func.now(), nullable=False),
    )
    op.create_table(
        "tablets",
        sa.Column("run_id", sa.Uuid, primary_key=True),
        sa.Column("tablet", sa.String(60), primary_key=True),
        sa.Column("at", MOMENT, server_default=sa.func.clock_timestamp(), nullable=False),
        sa.Column("unsent", sa.Integer, nullable=False),
        sa.Column("refused", sa.Integer, nullable=False),
        prefixes=["UNLOGGED"],
    )
    for name in ("at", "seen"):
        moment = sa.Column(name, MOMENT, server_default=sa.func.now(), nullable=False)
        op.add_column("sessions", moment)
    words = sa.Column("agent", sa.String(120), server_default="", nullable=False)
    op.add_column("sessions", words)
    op.create_index("sessions_of_user", "sessions", ["user_name"])
    # Tries are counted by whose they are and when; they are kept no longer than they count.
    op.create_index("sign_in_attempts_at", "sign_in_attempts", ["at"])


def downgrade() -> None:
    """Everybody stays signed in; devices are strangers again."""
    op.drop_index("sign_in_attempts_at", "sign_in_attempts")
    op.drop_index("sessions_of_user", "sessions")
    for name in ("agent", "seen", "at"):
        op.drop_column("sessions", name)
    for name in ("tablets", "known_devices", "first_start"):
        op.drop_table(name)
