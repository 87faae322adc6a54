"""The commands that move captures out of the database and back, and put those of archived reviews away."""

import argparse
import signal
import sys
import time
from datetime import UTC, datetime, timedelta
from typing import TYPE_CHECKING

from nomothet.server.reading_code import set_up

if TYPE_CHECKING:
    from nomothet.server.passes.moving import Moved

_TOLD_EVERY_S = 5.0


def add(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Declare the command."""
    store = "The store is told by NOMOTHET_S3_BUCKET, _ENDPOINT, _REGION, _KEY and _SECRET; see docs/deploy.md."
    move = commands.add_parser(
        "move-captures", help="move captures to a store outside, or back; may be broken off and begun again",
        epilog=store,
    )  # fmt: skip
    move.add_argument("to", choices=("store", "database"))
    move.add_argument("--older-than", type=int, default=0, metavar="DAYS", help="only of passes whole for so many days")
    move.add_argument("--shrink", action="store_true", help="give the room back to the disk; tables are copied for it")
    move.set_defaults(run=_move)
    away = commands.add_parser(
        "put-away", help="pack the captures of archived reviews now, and get out those of others",
        epilog="The worker does the same a little after a review was archived or brought back.",
    )  # fmt: skip
    away.add_argument("--shrink", action="store_true", help="give the room back to the disk; tables are copied for it")
    away.set_defaults(run=_put_away)


def _move(arguments: argparse.Namespace) -> int:
    set_up()
    from nomothet.server.passes.moving import move_back, move_out, shrink
    from nomothet.server.passes.outside import StoreAway

    progress = _Progress()
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, progress.break_off)
    before = datetime.now(UTC) - timedelta(days=arguments.older_than) if arguments.older_than else None
    try:
        moved = move_out(before, progress) if arguments.to == "store" else move_back(progress)
    except StoreAway as error:
        print(f"nomothet-server: {error.detail} Begin it again when it is there.", file=sys.stderr)
        return 1
    progress.say(moved)
    if arguments.shrink:
        shrink()
    if moved.wrong:
        print(f"{moved.wrong} captures are not what was announced, and stayed: see nomothet-server check.")
    return int(moved.wrong > 0)


def _put_away(arguments: argparse.Namespace) -> int:
    set_up()
    from nomothet.server.passes.moving import shrink
    from nomothet.server.passes.putting_away import get_out, put_away, reviews_to_tidy

    wrong = 0
    archived, others = reviews_to_tidy()
    for review in archived:
        told = put_away(review)
        wrong += told.wrong
        before, now = told.held / 1024**2, told.size / 1024**2
        print(f"Review {review}: {told.captures} captures put away, {before:.1f} MiB in {now:.1f} MiB.", flush=True)
    for review in others:
        print(f"Review {review}: {get_out(review).captures} captures got out again.", flush=True)
    if not archived and not others:
        print("Nothing to put away: archive a review for it.")
    if arguments.shrink:
        shrink()
    if wrong:
        print(f"{wrong} captures are not what was announced, and stayed: see nomothet-server check.")
    return int(wrong > 0)


class _Progress:
    """Tells how far it is, not too often; asked to end, it ends between two captures."""

    def __init__(self) -> None:
        self._last = time.monotonic()
        self._over = False

    def break_off(self, _number: int, _frame: object) -> None:
        self._over = True

    def __call__(self, moved: "Moved") -> None:
        if self._over:
            self.say(moved)
            sys.exit("nomothet-server: broken off; begin it again, and it goes on where it was")
        if time.monotonic() - self._last > _TOLD_EVERY_S:
            self._last = time.monotonic()
            self.say(moved)

    def say(self, moved: "Moved") -> None:
        print(f"{moved.captures} captures moved, {moved.size / 1024**2:.1f} MiB.", flush=True)
