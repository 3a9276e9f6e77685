"""The application as an ASGI server runs it."""

import os
import warnings

from django.core.asgi import get_asgi_application
from django.urls import get_resolver

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "beacon.settings")
# Static files are read in pieces by a thread: nothing that whoever starts the server could mend.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume")
application = get_asgi_application()
# What the first request would have to read is read before the server answers at all: the API with its methods and machines.
get_resolver().url_patterns  # noqa: B018
