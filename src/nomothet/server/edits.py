"""Forms of edits: every field may be left out, and what is given is checked in full."""

from typing import Any, TypeVar

from rest_framework import serializers
from rest_framework.fields import empty

Form = TypeVar("Form", bound=serializers.BaseSerializer[Any])


def edit_form(form: Form) -> Form:
    """A form whose own fields may be missing.

    REST framework's `partial` reaches into nested forms too: a slot without a channel would pass.
    """
    for field in form.fields.values():  # type: ignore[attr-defined]
        field.required = False
        field.default = empty
    return form
