"""What lists are made of, as columns: nothing is read whole any more to be shown on a line."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None

# What an edition is found and listed by, read out of its document by the database itself.
FACTS = {
    "title": (sa.Text, "document ->> 'title'"),
    "engine_id": (sa.Text, "document ->> 'engine'"),
    "variant": (sa.Text, "document ->> 'variant'"),
    "language": (sa.Text, "coalesce(document -> 'job' ->> 'language', 'en')"),
    "minutes": (sa.Float, "(document ->> 'minutes')::double precision"),
    "revision": (sa.Integer, "(document ->> 'revision')::integer"),
    "rules_version": (sa.Integer, "coalesce((document ->> 'rules_version')::integer, 0)"),
    "crib_version": (sa.Integer, "coalesce((document ->> 'crib_version')::integer, 0)"),
}
MARKS = "('stop', 'skip', 'deviation', 'over', 'differs')"
INDEXES = {
    "editions_for": ("editions", "(engine_id, variant)", ""),
    "procedures_newest": ("procedures", "(at DESC, id)", ""),
    "procedures_standing": ("procedures", "(standing_id)", ""),
    "procedures_same_job": ("procedures", "(engine_id, job_hash)", ""),
    "runs_of_unit": ("runs", "(unit_id, signed_at DESC)", ""),
    "runs_open": ("runs", "(at DESC, id)", "WHERE signed_at IS NULL"),
    "runs_log": ("runs", "(signed_at DESC, id)", "WHERE signed_at IS NOT NULL"),
    "runs_marked": (
        "runs",
        "(signed_at DESC, id)",
        "WHERE signed_at IS NOT NULL AND (unfinished OR marks <> '{}')",
    ),
    "runs_unfinished": ("runs", "(unit_id)", "WHERE unfinished"),
    "dues_by_day": ("dues", '("on", id)', ""),
    "dues_of_unit": ("dues", "(unit_id)", ""),
    "units_by_name": ("units", "(name, id)", ""),
}


def upgrade() -> None:
    """Filled from what is there; what is due is worked out at the next start."""
    for name, (kind, source) in FACTS.items():
        op.add_column("editions", sa.Column(name, kind, sa.Computed(source, persisted=True)))
    job_hash = sa.Computed("md5((job - 'language')::text)", persisted=True)
    op.add_column("procedures", sa.Column("job_hash", sa.String(32), job_hash))
    op.add_column("procedures", sa.Column("standing_id", sa.Uuid))
    op.execute(
        "UPDATE procedures SET standing_id = newest.id FROM ("
        "SELECT DISTINCT ON (procedure_id) procedure_id, editions.id FROM editions "
        "LEFT JOIN withdrawals ON edition_id = editions.id WHERE edition_id IS NULL "
        "ORDER BY procedure_id, number DESC) newest WHERE newest.procedure_id = procedures.id"
    )
    for name, empty in (("hands", ARRAY(sa.String(40))), ("marks", JSONB())):
        op.add_column("runs", sa.Column(name, empty, nullable=False, server_default="{}"))
    op.add_column("runs", sa.Column("meter", sa.Float))
    _fill_runs()
    op.create_table(
        "dues",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("run_id", sa.Uuid, sa.ForeignKey("runs.id"), nullable=False),
        sa.Column("unit_id", sa.String(48), sa.ForeignKey("units.id"), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("what", sa.Text, nullable=False),
        sa.Column("on", sa.Date),
        sa.Column("meter", sa.Float),
        sa.Column("set_at", sa.DateTime(timezone=True), nullable=False),
    )
    known = sa.Column("dues_known", sa.Boolean, nullable=False, server_default=sa.true())
    op.add_column("units", known)
    op.execute(
        "UPDATE units SET dues_known = false WHERE id IN "
        "(SELECT unit_id FROM runs WHERE signed_at IS NOT NULL)"
    )
    for name, (table, columns, only) in INDEXES.items():
        op.execute(f"CREATE INDEX {name} ON {table} {columns} {only}")
    op.execute("CREATE INDEX runs_hands ON runs USING gin (hands)")
    for name, which in (("few", "NOT IN"), ("many", "IN")):
        op.execute(
            f"CREATE INDEX search_entries_{name} ON search_entries USING gin (words) "
            f"WHERE kind {which} ('step', 'finding')"
        )
    op.drop_index("search_entries_words", "search_entries")


def _fill_runs() -> None:
    op.execute(
        "UPDATE runs SET hands = told.hands, marks = told.marks, meter = told.meter FROM ("
        "SELECT run_id, array_agg(DISTINCT by) AS hands, "
        "coalesce(jsonb_object_agg(kind, n) FILTER (WHERE kind IN "
        f"{MARKS}), '{{}}') AS marks, max(meter) AS meter FROM ("
        "SELECT run_id, by, body ->> 'kind' AS kind, "
        "count(*) OVER (PARTITION BY run_id, body ->> 'kind') AS n, "
        "CASE WHEN body ->> 'step' = 'ready/unit' AND body ->> 'reading' = 'meter' "
        "AND jsonb_typeof(body -> 'value') = 'number' AND NOT EXISTS ("
        "SELECT 1 FROM entries later WHERE later.run_id = entries.run_id "
        "AND later.seq > entries.seq AND later.body ->> 'step' = 'ready/unit' "
        "AND later.body ->> 'reading' = 'meter') "
        "THEN (body ->> 'value')::double precision END AS meter FROM entries"
        ") said GROUP BY run_id) told WHERE told.run_id = runs.id"
    )


def downgrade() -> None:
    """Lists are made from the whole again."""
    op.execute("CREATE INDEX search_entries_words ON search_entries USING gin (words)")
    for name in ("search_entries_few", "search_entries_many", "runs_hands", *INDEXES):
        op.execute(f"DROP INDEX {name}")
    op.drop_column("units", "dues_known")
    op.drop_table("dues")
    for name in ("hands", "marks", "meter"):
        op.drop_column("runs", name)
    op.drop_column("procedures", "standing_id")
    op.drop_column("procedures", "job_hash")
    for name in FACTS:
        op.drop_column("editions", name)
