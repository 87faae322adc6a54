"""What would fill a hole that a verdict would have to do without."""

_REMEDIES = {
    "owed": "Run it: it is on the docket.",
    "running": "It is running.",
    "failed": "Ask for passes, or let it stand as a result.",
    "blocked": "The configuration cannot be built.",
    "set aside": "Ask for passes, or take one back.",
    "too few passes": "Ask for the rest.",
    "not recorded": "Type it in, or say why it is missing.",
    "never asked": "Ask for passes.",
    "noise unknown": "A second pass would show the noise.",
    "shows nothing": "Take the cap off, or use settings that another part limits.",
    "target not told": "Longer runs, or a target for the average alone, would tell.",
    "thin tail": "Longer runs would show it.",
}


def hole_remedy(reason: str) -> str:
    """What would fill a hole, by its reason; empty where nothing is to be done.

    >>> hole_remedy("never asked")
    'Ask for passes.'
    """
    return _REMEDIES.get(reason, "")
