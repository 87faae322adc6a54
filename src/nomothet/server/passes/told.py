"""What people have told of a pass, and the entity tag of it."""

from dataclasses import dataclass

from nomothet.server.passes.models import Pass
from nomothet.server.versions import content_tag


@dataclass(frozen=True)
class ToldShape:
    """What is told of a pass; `tag` is what If-Match wants."""

    note: str
    action: str
    fallback: str
    ran_by: str
    helped_by: str
    tag: str


def told_of(owner: Pass) -> ToldShape:
    """What stands there now."""
    fields = (owner.note, owner.action, owner.fallback, owner.ran_by, owner.helped_by)
    return ToldShape(*fields, tag=content_tag(*fields))
