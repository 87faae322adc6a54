"""Whether a soak was stable: it lasted as long as asked, found no error, did not crash and showed no fault."""

from nomothet.core.notes import Note, note
from nomothet.formats.words import OUTCOMES
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Test

# A soak may end a little early: the last round of work is not begun when it could not be finished.
_NEARLY = 0.98


def stability(test: Test, owner: Pass) -> Note:
    """The criterion applied to a pass, with what was missed. The length asked for is `stable_s` or the workload's."""
    lasted = owner.duration_s or 0.0
    if owner.outcome != "completed":
        return note("soak_ended", outcome=OUTCOMES[owner.outcome], lasted_s=lasted)
    errors = next((figure.value for figure in owner.figures.all() if figure.metric == "errors"), None)
    if errors:
        return note("soak_wrong", errors=errors, lasted_s=lasted)
    asked = test.settings.get("stable_s") or test.settings.get("seconds") or test.workload.duration_s
    if isinstance(asked, int | float) and lasted < _NEARLY * asked:
        return note("soak_short", lasted_s=lasted, asked_s=asked)
    return note("soak_stable", lasted_s=lasted, counted=errors == 0)
