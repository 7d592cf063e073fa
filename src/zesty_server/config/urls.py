"""All addresses."""

from django.urls import include, path, re_path
from drf_spectacular.views import SpectacularJSONAPIView

import zesty_server.config.schema  # noqa: F401 - registers the access scheme
from zesty_server.config.access import SignedIn
from zesty_server.config.pages import page, unknown_address

DESCRIPTION = SpectacularJSONAPIView.as_view(permission_classes=[SignedIn])

handler500 = "zesty_server.http.errors.unexpected"

urlpatterns = [
    path("api/", include("zesty_server.config.api_urls")),
    path("api/openapi.json", DESCRIPTION, name="openapi"),
    re_path(r"^(?:api|assets)/.*$", unknown_address),
    re_path(r"^.*$", page),
]
