"""The ASGI application."""

import os
from importlib import import_module

from django.conf import settings
from django.core.asgi import get_asgi_application

from nomothet.server import logs
from nomothet.server.gate import Gate

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "nomothet.server.settings")
logs.configure()
application = Gate(get_asgi_application())
# What the addresses need is read before the first who asks, who would wait for it.
import_module(settings.ROOT_URLCONF)
