"""What a file would change here: worked out before, and again when it is taken in."""

from dataclasses import dataclass, field
from io import BytesIO
from uuid import UUID

from PIL import Image
from sqlalchemy.orm import Session

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine import Engine
from eldrim.core.job import settle_job
from eldrim.core.procedure.editions.difference import Difference, difference
from eldrim.core.procedure.editions.edits import Edit, apply_edits, orphans
from eldrim.core.words.messages import gettext
from eldrim.exchange.engine_file import changes, read_engine
from eldrim.exchange.photo import holds_only_its_picture
from eldrim.exchange.procedure_files import FORMAT, ProcedureFile, read_json, read_steps_csv
from eldrim.store import audit, images, procedure_store, sheet_store
from eldrim.store.errors import NotFoundError
from eldrim.store.tables import ProcedureRow, TakeInRow
from eldrim.web.context import Db
from eldrim.web.procedures.document import compiled

MAX_LINES = 300


@dataclass(frozen=True)
class Preview:
    """What is new or changed, in words and as differences. ``elsewhere`` compares with the file."""

    title: str
    new: bool
    lines: list[tuple[str, str, str]] = field(default_factory=list)
    steps: Difference | None = None
    elsewhere: Difference | None = None
    lost: dict[str, Edit] = field(default_factory=dict)
    notes: tuple[str, ...] = ()

    @property
    def empty(self) -> bool:
        """Whether taking it in would change nothing."""
        return not (self.new or self.lines or (self.steps and not self.steps.empty))


def kind_of(name: str, data: bytes) -> str:
    """What a file is, by what is in it: ``procedure``, ``steps`` or ``engine``."""
    if FORMAT.encode() in data:
        return "procedure"
    return "steps" if name.lower().endswith(".csv") else "engine"


def preview(db: Db, held: TakeInRow) -> Preview:
    """What a held file would change. Raises :class:`ProblemsError` for what cannot be taken in."""
    kind, _, about = held.about.partition("/")
    if kind == "engine":
        return _engine(db, read_engine(held.data))
    if kind == "procedure":
        return _procedure(db, read_json(held.data))
    return _steps(db, procedure_store.procedure(db, UUID(about)), held.data)


def take_in(db: Db, held: TakeInRow, by: str) -> str:
    """Take all of a held file in, in the request's one transaction; the address of what it is."""
    audit.note(db, by, "taken in", held.about, file=held.name)
    kind, _, about = held.about.partition("/")
    if kind == "engine":
        engine = read_engine(held.data)
        before = _known(db, engine.id)
        kept = engine.model_copy(update={"revision": before.revision + 1}) if before else engine
        sheet_store.save_sheet(db, kept, by)
        return f"/engines/{engine.id}"
    if kind == "steps":
        row = procedure_store.procedure(db, UUID(about))
        procedure_store.replace_draft(db, row.id, _steps_edits(db, row, held.data), None)
        return f"/procedures/{row.id}"
    file = read_json(held.data)
    for data in file.photos.values():
        with Image.open(BytesIO(data), formats=("JPEG",)) as photo:
            images.keep(db, data, photo.size, by)
    found = _same_job(db, file)
    key = found.id if found else procedure_store.add_procedure(db, _sheet(db, file), file.job, by)
    procedure_store.replace_draft(db, key, file.edits, file.departures)
    return f"/procedures/{key}"


def _known(db: Session, engine_id: str) -> Engine | None:
    try:
        return sheet_store.sheet(db, engine_id)
    except NotFoundError:
        return None


def _engine(db: Session, engine: Engine) -> Preview:
    before = _known(db, engine.id)
    lines = changes(before, engine) if before else []
    notes = []
    if before:
        notes.append(
            gettext(
                "It becomes revision {revision}; the file says {stated}.",
                revision=before.revision + 1,
                stated=engine.revision,
            )
        )
    if len(lines) > MAX_LINES:
        notes.append(gettext("{max_lines} more lines differ.", max_lines=len(lines) - MAX_LINES))
    return Preview(engine.title, before is None, lines[:MAX_LINES], notes=tuple(notes))


def _sheet(db: Session, file: ProcedureFile) -> Engine:
    sheet = _known(db, file.plan.engine)
    if sheet is None:
        fix = gettext("take in its engine file first")
        said = gettext("there is no engine '{engine}' here", engine=file.plan.engine)
        raise ProblemsError([Problem("plan.engine", said, fix)])
    settle_job(file.job, sheet)
    return sheet


def _same_job(db: Session, file: ProcedureFile) -> ProcedureRow | None:
    """The procedure here for the same job on the same engine, the oldest if there are several."""
    return procedure_store.same_job(db, file.plan.engine, file.job.model_dump(mode="json"))


def _procedure(db: Db, file: ProcedureFile) -> Preview:
    _photos(file)
    sheet, found = _sheet(db, file), _same_job(db, file)
    row = ProcedureRow(
        engine_id=sheet.id,
        job=file.job.model_dump(mode="json"),
        edits={},
        departures={
            key: departure.model_dump(mode="json") for key, departure in file.departures.items()
        },
    )
    computed = compiled(db, row)
    made = apply_edits(computed, file.edits)
    before = apply_edits(compiled(db, found), procedure_store.edits_of(found)) if found else None
    notes = (
        (gettext("{photos} photos come with it.", photos=len(file.photos)),) if file.photos else ()
    )
    return Preview(
        f"{file.plan.title}, {sheet.title}",
        found is None,
        steps=difference(before, made) if before else None,
        elsewhere=difference(file.plan, made),
        lost=orphans(computed, file.edits),
        notes=notes,
    )


def _photos(file: ProcedureFile) -> None:
    wrong = [key for key, data in file.photos.items() if not holds_only_its_picture(data)]
    if wrong:
        said = gettext("is no JPEG, is cut off, or holds more than its picture")
        fix = gettext("write the file out again")
        raise ProblemsError([Problem(f"photos.{key[:12]}", said, fix) for key in wrong])


def _steps_edits(db: Db, row: ProcedureRow, data: bytes) -> dict[str, Edit]:
    computed, edits = compiled(db, row), procedure_store.edits_of(row)
    return read_steps_csv(data, computed, apply_edits(computed, edits), edits)


def _steps(db: Db, row: ProcedureRow, data: bytes) -> Preview:
    computed, edits = compiled(db, row), procedure_store.edits_of(row)
    before = apply_edits(computed, edits)
    after = apply_edits(computed, read_steps_csv(data, computed, before, edits))
    notes = (gettext("Wording, notes and hold points are read; everything else is computed."),)
    return Preview(row.title, False, steps=difference(before, after), notes=notes)
