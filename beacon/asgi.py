"""The application as an ASGI server runs it."""

import os

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "beacon.settings")
application = get_asgi_application()
