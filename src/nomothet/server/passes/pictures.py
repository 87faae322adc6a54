"""Pictures as evidence on a pass: checked, turned upright, freed of the camera's metadata, with a small copy."""

import hashlib
import io
from typing import BinaryIO

from django.db import DEFAULT_DB_ALIAS, IntegrityError, transaction
from django.db.models import ProtectedError
from django.db.models.deletion import Collector
from django.utils import timezone
from PIL import Image, ImageOps, UnidentifiedImageError

from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import remember
from nomothet.server.passes.models import Pass, Picture
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.scanning import scan

MOST_BYTES = 20 * 1024 * 1024
MOST_PIXELS = 80_000_000
MOST_OF_A_PASS = 60
_LONGEST_SIDE = 4096
_THUMBNAIL = 320
_KINDS = {"JPEG": "image/jpeg", "PNG": "image/png", "WEBP": "image/webp"}


def add_picture(user: User, owner: Pass, file: BinaryIO, *, caption: str = "", at_s: float | None = None) -> Picture:
    """Keep a picture on a pass. The same picture twice is kept once.

    Raises
    ------
    Problem
        When it is too large, no picture, or of a kind that is not taken; says which are.
    """
    require(user, Act.RECORD)
    content = file.read(MOST_BYTES + 1)
    if len(content) > MOST_BYTES:
        raise unusable("The picture is over 20 MB; make it smaller. Nothing was stored.", field="file")
    sha256 = hashlib.sha256(content).hexdigest()
    existing = Picture.every.filter(owner=owner, sha256=sha256).first()
    if existing is not None:
        if existing.off_at is not None:
            put_picture_back(user, existing)
        return existing
    scan(io.BytesIO(content))
    if owner.pictures.count() >= MOST_OF_A_PASS:
        raise unusable(f"A pass takes {MOST_OF_A_PASS} pictures; take one off first.")
    picture, kind = _read(content)
    try:
        with transaction.atomic():
            kept: Picture = Picture.objects.create(
                owner=owner,
                caption=caption.strip(),
                media_type=_KINDS[kind],
                width=picture.width,
                height=picture.height,
                sha256=sha256,
                at_s=at_s,
                blob=_written(picture, kind),
                thumbnail=_small(picture),
                by=user,
            )
            announce("marks", review=owner.test.review_id, id=str(owner.pk))
    except IntegrityError:
        # Sent twice at once; the other one is stored.
        known: Picture = Picture.objects.get(owner=owner, sha256=sha256)
        return known
    return kept


def small_picture(content: bytes) -> bytes:
    """A picture of unknown origin made anew as a small JPEG.

    Raises
    ------
    Problem
        When it is no picture that can be read.
    """
    return _small(_read(content)[0])


def take_picture_off(user: User, picture: Picture) -> None:
    """Take a picture off a pass; it stays on record and can be put back."""
    require(user, Act.RECORD)
    if picture.owner.record_set.exists():
        raise conflict("A published record shows this picture, so it stays. A new edition can leave the pass out.")
    try:
        # What would hold it back from being deleted holds it back from this.
        Collector(using=DEFAULT_DB_ALIAS).collect([picture])
    except ProtectedError:
        raise conflict("The review says something of this picture beside another; take that off first.") from None
    _put(user, picture, off=True)


def put_picture_back(user: User, picture: Picture) -> None:
    """Put a picture back that was taken off."""
    require(user, Act.RECORD)
    _put(user, picture, off=False)


def _put(user: User, picture: Picture, *, off: bool) -> None:
    with transaction.atomic():
        picture.off_at, picture.off_by = (timezone.now(), user) if off else (None, None)
        picture.save(update_fields=["off_at", "off_by"])
        review = picture.owner.test.review_id
        told = {"picture": [picture.caption, None] if off else [None, picture.caption]}
        remember(user, "review", review, "picture taken off" if off else "picture put back", told)
        announce("marks", review=review, id=str(picture.owner_id))


def _read(content: bytes) -> tuple[Image.Image, str]:
    wanted = "Photos and screenshots as JPEG, PNG or WebP are taken. Nothing was stored."
    try:
        with Image.open(io.BytesIO(content), formats=list(_KINDS)) as opened:
            if opened.width * opened.height > MOST_PIXELS:
                raise unusable("The picture has over 80 million pixels; make it smaller. Nothing was stored.")
            kind = opened.format or "PNG"
            upright = ImageOps.exif_transpose(opened)
            upright.load()
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise unusable(f"This is no picture that can be read. {wanted}", field="file") from None
    upright.thumbnail((_LONGEST_SIDE, _LONGEST_SIDE))
    return upright, kind


def _written(picture: Image.Image, kind: str) -> bytes:
    """Pixels alone: a fresh picture carries neither place nor camera."""
    plain = picture if kind == "PNG" and picture.mode in ("RGB", "RGBA", "L", "P") else picture.convert("RGB")
    bare = Image.new(plain.mode, plain.size)
    if plain.mode == "P" and plain.palette is not None:
        bare.putpalette(plain.palette)
    bare.paste(plain)
    out = io.BytesIO()
    bare.save(out, format=kind, **({"quality": 90} if kind != "PNG" else {"optimize": True}))
    return out.getvalue()


def _small(picture: Image.Image) -> bytes:
    small = picture.convert("RGB")
    small.thumbnail((_THUMBNAIL, _THUMBNAIL))
    out = io.BytesIO()
    small.save(out, format="JPEG", quality=80)
    return out.getvalue()
