"""The ASGI application."""

import os

from django.core.asgi import get_asgi_application

from nomothet.server import logs
from nomothet.server.gate import Gate
from nomothet.server.reading_code import read_answers

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "nomothet.server.settings")
logs.configure()
application = Gate(get_asgi_application())
read_answers()
