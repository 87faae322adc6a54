"""Said when something of a review changes on which figures depend that others compute; `analysis` listens;
and when one is archived or brought back, for `upkeep`."""

from django.dispatch import Signal

# Sent with `test`, its key: another part of its passes counts now.
counting_changed = Signal()
# Sent with `review`, its key: its passes are judged by another target.
target_changed = Signal()
# Sent with `review`, its key: it was archived or brought back.
archiving_changed = Signal()
