from django.urls import path, re_path

from beacon.api import api
from beacon.web import page

urlpatterns = [
    path("api/", api.urls),
    re_path(r"^(?!api/|static/)(?P<path>.*)$", page),
]
