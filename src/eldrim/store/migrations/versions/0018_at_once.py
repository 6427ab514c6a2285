"""An entry kept by one statement, where nothing came between it and what it was judged on; where
other entries did, they are what it answers.
"""

from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None

PARAMETERS = (
    "p_token text, p_csrf text, p_by text, p_role text, p_seen_since timestamptz, "
    "p_run uuid, p_seq bigint, p_asks_meter boolean, p_stood double precision, "
    "p_id uuid, p_body jsonb, "
    "p_hands varchar[], p_marks jsonb, p_sets_meter boolean, p_meter double precision"
)


def upgrade() -> None:
    """The run is locked, so what is looked at after that stays as it is until the commit."""
    op.execute(
        f"CREATE FUNCTION keep_entry({PARAMETERS}) RETURNS TABLE (kept boolean, of_seq bigint, "
        "of_at timestamptz, of_body jsonb, of_by varchar, of_role varchar) "
        "LANGUAGE plpgsql AS $$ "
        "DECLARE the_run runs%ROWTYPE; "
        "BEGIN "
        "PERFORM 1 FROM sessions JOIN users ON users.name = user_name "
        "WHERE token_hash = p_token AND csrf = p_csrf AND users.name = p_by "
        "AND users.role = p_role AND expires > clock_timestamp() AND seen > p_seen_since; "
        "IF NOT FOUND THEN RETURN; END IF; "
        "SELECT * INTO the_run FROM runs WHERE id = p_run AND signed_at IS NULL "
        "FOR NO KEY UPDATE; "
        "IF NOT FOUND THEN RETURN; END IF; "
        "IF p_seq IS DISTINCT FROM "
        "(SELECT coalesce(max(seq), 0) FROM entries WHERE run_id = p_run) THEN "
        "RETURN QUERY SELECT false, seq, at, body, by, role FROM entries "
        "WHERE run_id = p_run AND seq > p_seq ORDER BY seq; "
        "RETURN; END IF; "
        "IF p_asks_meter AND p_stood IS DISTINCT FROM "
        "(SELECT meter FROM runs WHERE unit_id = the_run.unit_id AND at < the_run.at "
        "AND meter IS NOT NULL ORDER BY at DESC LIMIT 1) THEN RETURN; END IF; "
        "INSERT INTO entries (id, run_id, body, by, role) "
        "VALUES (p_id, p_run, p_body, p_by, p_role) ON CONFLICT (id) DO NOTHING "
        "RETURNING seq, at INTO of_seq, of_at; "
        "IF NOT FOUND THEN RETURN; END IF; "
        "IF p_hands IS NOT NULL OR p_marks IS NOT NULL OR p_sets_meter THEN "
        "UPDATE runs SET hands = coalesce(p_hands, hands), marks = coalesce(p_marks, marks), "
        "meter = CASE WHEN p_sets_meter THEN p_meter ELSE meter END WHERE id = p_run; "
        "END IF; "
        "kept := true; RETURN NEXT; "
        "END $$"
    )


def downgrade() -> None:
    """Entries go the long way."""
    op.execute("DROP FUNCTION keep_entry")
