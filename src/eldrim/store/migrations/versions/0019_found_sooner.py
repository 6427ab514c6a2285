"""Indexes for what lists ask for: titles, what is made on other ground, what is due by kind."""

from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None

INDEXES = {
    "editions_title": ("editions", "(title)"),
    "editions_sheet": ("editions", "(engine_id, revision)"),
    "editions_rules": ("editions", "(rules_version)"),
    "editions_crib": ("editions", "(crib_version)"),
    "dues_by_kind": ("dues", '(kind, "on", id)'),
}


def upgrade() -> None:
    """Nothing changes but how soon an answer comes."""
    for name, (table, columns) in INDEXES.items():
        op.execute(f"CREATE INDEX {name} ON {table} {columns}")


def downgrade() -> None:
    """Lists are found by reading whole tables."""
    for name in INDEXES:
        op.execute(f"DROP INDEX {name}")
