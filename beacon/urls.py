from django.urls import path, re_path

from beacon.api import api
from beacon.metrics import metrics
from beacon.web import page, service_worker

urlpatterns = [
    path("api/", api.urls),
    path("metrics", metrics),
    path("sw.js", service_worker),
    re_path(r"^(?!api/|static/|metrics$)(?P<path>.*)$", page),
]

handler500 = "beacon.problems.fault"
