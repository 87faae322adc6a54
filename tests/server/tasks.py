"""What becomes of background work in a test: done at once, or left waiting."""

AT_ONCE = {"default": {"BACKEND": "django_tasks.backends.immediate.ImmediateBackend"}}
LATER = {"default": {"BACKEND": "django_tasks.backends.dummy.DummyBackend"}}
