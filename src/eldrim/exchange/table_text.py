"""Tables as spreadsheets write them: text in columns, read without knowing which spreadsheet."""

import csv
import io

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.words.messages import gettext
from eldrim.exchange.procedure_files import as_was


def decoded(data: bytes, most: int) -> str:
    """The text of a file of at most so many bytes. Raises :class:`ProblemsError`."""
    if len(data) > most:
        said = gettext("the file is over {size} kB", size=most // 1000)
        raise ProblemsError([Problem("", said, gettext("such a table is far smaller"))])
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        said = gettext("byte {start} is not UTF-8 text", start=error.start)
        raise ProblemsError([Problem("", said, gettext("save it as UTF-8"))]) from error


def table_rows(text: str) -> tuple[list[str], list[dict[str, str]]]:
    """The names of the columns, in small letters, and the rows; commas, semicolons or tabs apart.

    What a spreadsheet would run is read as the text it was.
    """
    first = text.split("\n", 1)[0]
    between = max(",;\t", key=first.count)
    reader = csv.DictReader(io.StringIO(text), delimiter=between)
    names = [name.strip().lower() for name in reader.fieldnames or ()]
    reader.fieldnames = names
    return names, [{k: as_was(value or "") for k, value in row.items() if k} for row in reader]
