"""All addresses."""

from django.urls import include, path, re_path
from drf_spectacular.views import SpectacularJSONAPIView

from zesty_server.config import schema as schema  # registers the access scheme
from zesty_server.config.pages import page, unknown_address

urlpatterns = [
    path("api/", include("zesty_server.config.api_urls")),
    path("api/openapi.json", SpectacularJSONAPIView.as_view(), name="openapi"),
    re_path(r"^api/.*$", unknown_address),
    re_path(r"^.*$", page),
]
