"""The ASGI application."""

import os

from django.core.asgi import get_asgi_application

from nomothet.server import logs

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "nomothet.server.settings")
logs.configure()
application = get_asgi_application()
