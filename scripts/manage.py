#!/usr/bin/env python3
"""Django commands for development: .venv/bin/python scripts/manage.py COMMAND."""

import os
import sys

from django.core.management import execute_from_command_line

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "nomothet.server.settings")
execute_from_command_line(sys.argv)
