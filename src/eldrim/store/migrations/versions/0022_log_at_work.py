"""What the log is filtered by and learns from: digests of runs, parts and their lives, wrenches;
views of the log that people keep; what trainers answer to what the bays say.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None

WORDS = r"to_tsvector('simple', regexp_replace(said, '\W+', ' ', 'g'))"


def upgrade() -> None:
    """Signed runs are gathered again as the server starts and as the log is looked at."""
    _runs()
    _digests()
    _parts()
    _wrenches()
    _people()


def _runs() -> None:
    no, none = sa.false(), sa.text("'{}'")
    texts = postgresql.ARRAY(sa.String(80))
    op.add_column("runs", sa.Column("gathered", sa.Boolean(), nullable=False, server_default=no))
    op.add_column("runs", sa.Column("found", texts, nullable=False, server_default=none))
    op.add_column("runs", sa.Column("parts", texts, nullable=False, server_default=none))
    op.add_column("runs", sa.Column("said", sa.Text(), nullable=False, server_default=""))
    op.add_column(
        "runs", sa.Column("words", postgresql.TSVECTOR(), sa.Computed(WORDS, persisted=True))
    )
    for name in ("took", "cost_planned", "cost_real"):
        op.add_column("runs", sa.Column(name, sa.Float()))
    signed = sa.text("signed_at IS NOT NULL")
    for name in ("found", "parts", "words"):
        op.create_index(
            f"runs_{name}", "runs", [name], postgresql_using="gin", postgresql_where=signed
        )
    op.create_index(
        "runs_to_gather",
        "runs",
        ["signed_at"],
        postgresql_where=sa.text("signed_at IS NOT NULL AND NOT gathered"),
    )


def _digests() -> None:
    op.create_table(
        "run_digests",
        sa.Column("run_id", sa.Uuid(), sa.ForeignKey("runs.id"), primary_key=True),
        sa.Column("engine_id", sa.String(48), nullable=False),
        sa.Column("procedure_id", sa.Uuid(), nullable=False),
        sa.Column("search", sa.String(40), nullable=False, server_default=""),
        sa.Column("signed_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("document", postgresql.JSONB(), nullable=False),
    )
    newest = sa.text("signed_at DESC")
    op.create_index("digests_of_engine", "run_digests", ["engine_id", newest])
    op.create_index("digests_of_procedure", "run_digests", ["procedure_id", newest])
    op.create_index("digests_newest", "run_digests", [newest])
    op.create_index(
        "digests_of_searches", "run_digests", [newest], postgresql_where=sa.text("search <> ''")
    )


def _parts() -> None:
    op.create_table(
        "fitted_parts",
        sa.Column("id", sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column("unit_id", sa.String(48), sa.ForeignKey("units.id"), nullable=False),
        sa.Column("engine_id", sa.String(48), nullable=False),
        sa.Column("thing", sa.String(48), nullable=False),
        sa.Column("hole", sa.String(4), nullable=False),
        sa.Column("number", sa.String(120), nullable=False),
        sa.Column("counts", sa.String(4), nullable=False),
        sa.Column("run_id", sa.Uuid(), sa.ForeignKey("runs.id"), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("meter", sa.Float()),
        sa.Column("gap", sa.Float()),
        sa.Column("read_meter", sa.Float()),
        sa.Column("read_gap", sa.Float()),
        sa.Column("out_run_id", sa.Uuid(), sa.ForeignKey("runs.id")),
        sa.Column("out_at", sa.DateTime(timezone=True)),
        sa.Column("out_meter", sa.Float()),
        sa.Column("failed", sa.Boolean(), nullable=False, server_default=sa.false()),
        sa.Column("why", sa.String(40), nullable=False, server_default=""),
    )
    place = ["unit_id", "thing", "hole"]
    inside = sa.text("out_at IS NULL")
    op.create_index("parts_in_place", "fitted_parts", place, unique=True, postgresql_where=inside)
    op.create_index("parts_by_number", "fitted_parts", ["thing", "number", sa.text("at DESC")])
    op.create_index("parts_of_engine", "fitted_parts", ["engine_id", sa.text("at DESC")])
    op.create_index("parts_newest", "fitted_parts", [sa.text("at DESC")])
    op.create_index("parts_recalled", "fitted_parts", ["number", "unit_id"])
    op.create_table(
        "part_kinds",
        sa.Column("thing", sa.String(48), primary_key=True),
        sa.Column("number", sa.String(120), primary_key=True),
        sa.Column("fitted", sa.Integer(), nullable=False),
        sa.Column("failed", sa.Integer(), nullable=False),
        sa.Column("newest", sa.DateTime(timezone=True), nullable=False),
    )


def _wrenches() -> None:
    op.create_table(
        "wrench_weeks",
        sa.Column("wrench", sa.String(80), primary_key=True),
        sa.Column("week", sa.Date(), primary_key=True),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("ratio", sa.Float(), nullable=False),
        sa.Column("runs", sa.Integer(), nullable=False),
        sa.Column("run_id", sa.Uuid(), sa.ForeignKey("runs.id"), nullable=False),
    )


def _people() -> None:
    now = sa.func.now()
    op.create_table(
        "log_views",
        sa.Column("user_name", sa.String(40), primary_key=True),
        sa.Column("name", sa.String(60), primary_key=True),
        sa.Column("asked", postgresql.JSONB(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=now, nullable=False),
    )
    op.create_table(
        "step_answers",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("procedure_id", sa.Uuid(), sa.ForeignKey("procedures.id"), nullable=False),
        sa.Column("step", sa.String(160), nullable=False),
        sa.Column("step_text", sa.String(400), nullable=False),
        sa.Column("kind", sa.String(12), nullable=False),
        sa.Column("words", sa.String(400), nullable=False),
        sa.Column("by", sa.String(40), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=now, nullable=False),
        sa.Column("reporters", postgresql.ARRAY(sa.String(40)), nullable=False),
        sa.Column("read_by", postgresql.ARRAY(sa.String(40)), nullable=False, server_default="{}"),
        sa.Column("runs", postgresql.JSONB(), nullable=False),
        sa.Column("edition", sa.Integer(), nullable=False),
    )
    op.create_index("answers_of_procedure", "step_answers", ["procedure_id", sa.text("at DESC")])
    op.create_index("answers_to", "step_answers", ["reporters"], postgresql_using="gin")


def downgrade() -> None:
    """Take them away again."""
    for table in (
        "step_answers",
        "log_views",
        "wrench_weeks",
        "part_kinds",
        "fitted_parts",
        "run_digests",
    ):
        op.drop_table(table)
    for name in (
        "words",
        "said",
        "parts",
        "found",
        "took",
        "cost_planned",
        "cost_real",
        "gathered",
    ):
        op.drop_column("runs", name)
