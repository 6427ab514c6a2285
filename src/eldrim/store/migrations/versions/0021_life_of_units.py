"""Companion work among what a job asks; what an unplanned stop of a unit costs, and severe use."""

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Every job so far has no companions."""
    op.execute(
        "UPDATE procedures SET job = job || '{\"companions\": []}'::jsonb "
        "WHERE NOT job ? 'companions'"
    )
    op.add_column("units", sa.Column("stop_cost", sa.Float()))
    op.add_column(
        "units", sa.Column("severe", sa.Boolean(), nullable=False, server_default=sa.false())
    )
    op.add_column("units", sa.Column("place", sa.String(60), nullable=False, server_default=""))
    op.create_table(
        "week_plans",
        sa.Column("week", sa.String(10), primary_key=True),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("by", sa.String(40), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )
    _foreseen()


def _foreseen() -> None:
    """What comes due by intervals and wear stands beside what was set at signings."""
    op.add_column("dues", sa.Column("first", sa.Date()))
    op.add_column("dues", sa.Column("until", sa.Date()))
    op.add_column("dues", sa.Column("thing", sa.String(48), nullable=False, server_default=""))
    op.add_column("dues", sa.Column("at", sa.JSON(), nullable=False, server_default="[]"))
    op.add_column("dues", sa.Column("why", sa.Text(), nullable=False, server_default=""))
    no = sa.false()
    for name in ("band", "looks"):
        op.add_column("dues", sa.Column(name, sa.Boolean(), nullable=False, server_default=no))
    op.execute('UPDATE dues SET until = "on"')
    op.create_index("dues_until", "dues", ["until"])
    op.execute("UPDATE units SET dues_known = false WHERE id IN (SELECT unit_id FROM runs)")


def downgrade() -> None:
    """Take them away again."""
    op.drop_table("week_plans")
    op.drop_index("dues_until", "dues")
    for column in ("first", "until", "thing", "at", "why", "band", "looks"):
        op.drop_column("dues", column)
    op.drop_column("units", "place")
    op.drop_column("units", "severe")
    op.drop_column("units", "stop_cost")
    op.execute("UPDATE procedures SET job = job - 'companions'")
