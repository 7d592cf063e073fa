"""WSGI entry point, for servers other than our own (:mod:`zesty_server.web`)."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zesty_server.config.settings")
application = get_wsgi_application()
