"""Findings are searched for; those written before are found by their step and reason."""

from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None

FINDINGS = """
INSERT INTO search_entries (owner, kind, address, title, body)
SELECT 'run/' || e.run_id, 'finding', '/log/' || e.run_id,
  left(concat_ws(' ', e.body->>'step', e.body->>'value', e.body->>'unit', e.body->>'reason'), 300),
  concat_ws(' ', u.name, u.serial, e.body->>'note')
FROM entries e JOIN runs r ON r.id = e.run_id JOIN units u ON u.id = r.unit_id
WHERE e.body->>'kind' IN ('stop', 'skip', 'deviation', 'over', 'differs')
"""


def upgrade() -> None:
    """What was found before is found too."""
    op.execute(FINDINGS)


def downgrade() -> None:
    """Findings are not searched for."""
    op.execute("DELETE FROM search_entries WHERE kind = 'finding'")
