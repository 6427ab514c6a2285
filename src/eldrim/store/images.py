"""Photos, kept once each under the digest of their bytes."""

from hashlib import sha256

from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from eldrim.store.errors import get_or_404
from eldrim.store.tables import ImageRow


def keep(session: Session, data: bytes, size: tuple[int, int], by: str) -> str:
    """Keep a photo and return its digest; the same one twice is kept once."""
    digest = sha256(data).hexdigest()
    values = {"digest": digest, "data": data, "width": size[0], "height": size[1], "by": by}
    session.execute(insert(ImageRow).values(values).on_conflict_do_nothing())
    return digest


def image(session: Session, digest: str) -> ImageRow:
    """One photo."""
    return get_or_404(session, ImageRow, digest, "There is no such photo.")


def known(session: Session, digest: str) -> bool:
    """Whether there is a photo of this digest."""
    return session.get(ImageRow, digest) is not None
