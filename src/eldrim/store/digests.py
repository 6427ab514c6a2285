"""What a database holds, as counts and sums: two that hold the same say the same."""

from sqlalchemy import Connection, inspect, text

# Gone with the machine they are about, or made anew: not part of what is kept.
PASSING = {"alembic_version", "tablets", "sign_in_attempts", "first_start"}
# How a row is written must not depend on who asks.
PLAINLY = (
    "SET LOCAL TimeZone = 'UTC'",
    "SET LOCAL DateStyle = 'ISO, YMD'",
    "SET LOCAL IntervalStyle = 'postgres'",
    "SET LOCAL extra_float_digits = 1",
    "SET LOCAL bytea_output = 'hex'",
    "SET LOCAL statement_timeout = 0",
    "SET LOCAL search_path = public",
)


def digests(connection: Connection) -> dict[str, tuple[int, str]]:
    """Per table how many rows it has and a sum over all of them, whatever their order.

    The sum is that of the MD5 of each row, in two halves: it finds what was lost, doubled or
    changed, not what somebody forged.
    """
    for setting in PLAINLY:
        connection.execute(text(setting))
    tables = sorted(set(inspect(connection).get_table_names(schema="public")) - PASSING)
    return {table: _digest(connection, table) for table in tables}


def _digest(connection: Connection, table: str) -> tuple[int, str]:
    half = "sum(('x' || substr(row, {at}, 16))::bit(64)::bigint::numeric)"
    asked = (
        f"SELECT count(*), {half.format(at=1)}, {half.format(at=17)} "
        f'FROM (SELECT md5("{table}"::text) AS row FROM "{table}") AS rows'
    )
    count, first, second = connection.execute(text(asked)).one()
    return int(count), f"{first or 0}/{second or 0}"
