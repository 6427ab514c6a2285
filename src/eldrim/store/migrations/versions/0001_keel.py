"""The first tables, and the triggers that keep released and recorded things as they are."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None

TIME = sa.DateTime(timezone=True)
APPEND_ONLY_TABLES = ("editions", "entries", "engine_sheets")


def upgrade() -> None:
    """Make the tables, then the guard on those that never change."""
    _accounts()
    _documents()
    _runs()
    op.execute(
        """
        CREATE FUNCTION keep_as_is() RETURNS trigger LANGUAGE plpgsql AS $$
        BEGIN
            RAISE EXCEPTION 'rows of % are never changed or removed', TG_TABLE_NAME;
        END $$
        """
    )
    for table in APPEND_ONLY_TABLES:
        op.execute(
            f"CREATE TRIGGER keep_as_is BEFORE UPDATE OR DELETE ON {table} "
            "FOR EACH ROW EXECUTE FUNCTION keep_as_is()"
        )


def downgrade() -> None:
    """Remove everything again."""
    for table in (
        "entries",
        "runs",
        "units",
        "editions",
        "procedures",
        "engine_sheets",
        "sign_in_attempts",
        "sessions",
        "users",
    ):
        op.drop_table(table)
    op.execute("DROP FUNCTION keep_as_is()")


def _now() -> "sa.Column[Any]":
    return sa.Column("at", TIME, server_default=sa.func.now(), nullable=False)


def _by() -> "sa.Column[Any]":
    return sa.Column("by", sa.String(40), nullable=False)


def _accounts() -> None:
    op.create_table(
        "users",
        sa.Column("name", sa.String(40), primary_key=True),
        sa.Column("display", sa.String(80), nullable=False),
        sa.Column("role", sa.String(20), nullable=False),
        sa.Column("password_hash", sa.String, nullable=False),
    )
    op.create_table(
        "sessions",
        sa.Column("token_hash", sa.String(64), primary_key=True),
        sa.Column(
            "user_name",
            sa.String(40),
            sa.ForeignKey("users.name", ondelete="CASCADE"),
            nullable=False,
        ),
        sa.Column("csrf", sa.String(64), nullable=False),
        sa.Column("expires", TIME, nullable=False),
    )
    op.create_table(
        "sign_in_attempts",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("who", sa.String(120), nullable=False, index=True),
        _now(),
    )


def _documents() -> None:
    op.create_table(
        "engine_sheets",
        sa.Column("id", sa.String(48), primary_key=True),
        sa.Column("revision", sa.Integer, primary_key=True),
        sa.Column("make", sa.String(120), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        _by(),
        _now(),
    )
    op.create_table(
        "procedures",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("engine_id", sa.String(48), nullable=False, index=True),
        sa.Column("title", sa.String(200), nullable=False),
        sa.Column("job", JSONB, nullable=False),
        sa.Column("edits", JSONB, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        _by(),
        _now(),
    )
    op.create_table(
        "editions",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column(
            "procedure_id", sa.Uuid, sa.ForeignKey("procedures.id"), nullable=False, index=True
        ),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("reason", sa.String(400), nullable=False),
        _by(),
        _now(),
    )
    op.create_index("editions_number", "editions", ["procedure_id", "number"], unique=True)


def _runs() -> None:
    op.create_table(
        "units",
        sa.Column("id", sa.String(48), primary_key=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("engine_id", sa.String(48), nullable=False, index=True),
        sa.Column("variant", sa.String(48), nullable=False),
        sa.Column("serial", sa.String(60), nullable=False),
        sa.Column("meter", sa.String(20), nullable=False),
    )
    op.create_table(
        "runs",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("edition_id", sa.Uuid, sa.ForeignKey("editions.id"), nullable=False, index=True),
        sa.Column("unit_id", sa.String(48), sa.ForeignKey("units.id"), nullable=False, index=True),
        _by(),
        sa.Column("at", TIME, server_default=sa.func.now(), nullable=False, index=True),
        sa.Column("signed_at", TIME, index=True),
    )
    op.create_table(
        "entries",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("seq", sa.BigInteger, sa.Identity(), nullable=False, unique=True),
        sa.Column("run_id", sa.Uuid, sa.ForeignKey("runs.id"), nullable=False),
        sa.Column("body", JSONB, nullable=False),
        _by(),
        sa.Column("role", sa.String(20), nullable=False),
        sa.Column("at", TIME, server_default=sa.func.clock_timestamp(), nullable=False),
    )
    op.create_index("entries_of_run", "entries", ["run_id", "seq"])
