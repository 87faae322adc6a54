"""Said when a pass came or changed, to those above who act on it."""

from django.dispatch import Signal

# Sent with `test` and `column`, their keys.
pass_changed = Signal()
