"""The WSGI application that gunicorn serves."""

import os
from importlib import import_module

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
application = get_wsgi_application()
for library in ("scipy.optimize", "scipy.special"):  # loaded before the processes part, so that they share it
    import_module(library)
