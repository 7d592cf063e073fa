"""All addresses."""

from django.urls import include, path, re_path
from drf_spectacular.views import SpectacularJSONAPIView

import zesty_server.config.schema  # noqa: F401 - registers the access scheme
from zesty_server.config.pages import page, unknown_address

urlpatterns = [
    path("api/", include("zesty_server.config.api_urls")),
    path("api/openapi.json", SpectacularJSONAPIView.as_view(), name="openapi"),
    re_path(r"^(?:api|assets)/.*$", unknown_address),
    re_path(r"^.*$", page),
]
