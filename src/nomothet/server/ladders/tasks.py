"""Going down a ladder in the background."""

from django_tasks import task

from nomothet.server.ladders.commands import go_on
from nomothet.server.ladders.models import Going
from nomothet.server.meeting import tried_again


@task()
@tried_again
def go_down(going: int) -> None:
    """Owe the next rung of a descent, where the present one has missed."""
    found = Going.objects.select_related("ladder__review", "column").filter(pk=going).first()
    if found is not None:
        go_on(found.ladder, found.column)
