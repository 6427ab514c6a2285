"""What a sheet calls things, in other languages."""

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine.glossary import own_words
from eldrim.core.words.language import LANGUAGES, Language
from eldrim.core.words.messages import gettext
from eldrim.store import sheet_store
from eldrim.store.errors import ConflictError
from eldrim.web.context import Db, SignedIn, Trainer, render
from eldrim.web.forms import FormFields

router = APIRouter(include_in_schema=False)
MAX_WORD = 300


@router.get("/engines/{engine_id}/words/{language}")
def show(request: Request, db: Db, _: SignedIn, engine_id: str, language: Language) -> Response:
    """Every word of the sheet beside what it is in a language."""
    sheet = sheet_store.sheet(db, engine_id)
    texts, known = own_words(sheet), sheet.words.get(language, {})
    return render(
        request,
        "figures/words.html.jinja",
        engine=sheet,
        language=language,
        name=LANGUAGES[language].name,
        texts=texts,
        known=known,
        lacking=len(texts) - len(known),
    )


@router.post("/engines/{engine_id}/words/{language}")
def keep(
    db: Db, signed_in: Trainer, form: FormFields, engine_id: str, language: Language
) -> Response:
    """Keep the words as the sheet's next revision."""
    sheet = sheet_store.sheet(db, engine_id)
    was = str(form.get("revision", ""))
    if not was.isdigit() or sheet_store.sheet(db, engine_id, int(was)).words != sheet.words:
        raise ConflictError(
            gettext("Somebody else changed these words meanwhile. Load the page again.")
        )
    texts = own_words(sheet)
    given = {text: str(form.get(f"w{index}", "")).strip() for index, text in enumerate(texts)}
    long = [
        Problem(key, gettext("its translation is over 300 characters"), gettext("shorten it"))
        for key, w in given.items()
        if len(w) > MAX_WORD
    ]
    if long:
        raise ProblemsError(long)
    words = {**sheet.words, language: {t: w for t, w in given.items() if w}}
    changed = sheet.model_copy(update={"words": words, "revision": sheet.revision + 1})
    sheet_store.save_sheet(db, changed, signed_in.name)
    return RedirectResponse(f"/engines/{engine_id}/words/{language}", 303)
