"""Django behind WSGI."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "normant.config.settings")
application = get_wsgi_application()
