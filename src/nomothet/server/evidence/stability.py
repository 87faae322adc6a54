"""Whether a soak was stable: it lasted as long as asked, found no error, did not crash and showed no fault."""

from nomothet.formats.words import OUTCOMES
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Test

# A soak may end a little early: the last round of work is not begun when it could not be finished.
_NEARLY = 0.98


def stability_words(test: Test, owner: Pass) -> str:
    """The criterion applied to a pass, with what was missed. The length asked for is `stable_s` or the workload's."""
    lasted = owner.duration_s or 0.0
    minutes = f"{lasted / 60:.1f} min" if lasted >= 60 else f"{lasted:.0f} s"
    if owner.outcome != "completed":
        return f"not stable: {OUTCOMES[owner.outcome]} after {minutes}"
    errors = next((figure.value for figure in owner.figures.all() if figure.metric == "errors"), None)
    if errors:
        return f"not stable: {errors:.0f} wrong results in {minutes}"
    asked = test.settings.get("stable_s") or test.settings.get("seconds") or test.workload.duration_s
    if isinstance(asked, int | float) and lasted < _NEARLY * asked:
        return f"not known: it lasted {minutes} of the {asked / 60:.0f} min asked for"
    counted = "no wrong result" if errors == 0 else "errors were not counted"
    return f"stable for {minutes}: {counted}, no crash, no fault seen"
