"""The WSGI application: Django with all that its routes need, read before the processes part, so that they share it and none is slow at first."""

import os
from importlib import import_module

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
application = get_wsgi_application()
for library in ("config.urls", "scipy.optimize", "scipy.special", "scipy.spatial", "manifold3d", "fontTools.ttLib"):
    import_module(library)
