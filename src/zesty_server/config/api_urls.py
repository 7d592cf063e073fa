"""Addresses under /api/."""

from django.urls import path
from rest_framework.routers import SimpleRouter

from zesty_server.accounts.views import AccountView, PasswordView, SignInView, SignOutView
from zesty_server.batches.views import BatchViewSet
from zesty_server.beds.views import BedSettingsView, BedUploadView, BedViewSet
from zesty_server.comparisons.views import (
    BlindPickViewSet,
    SidesView,
    TastingViewSet,
    VersionsPageView,
)
from zesty_server.config.about import AboutView
from zesty_server.deliveries.views import CoverView, DeliveryViewSet
from zesty_server.house_voices.views import HouseVoiceViewSet
from zesty_server.mixes.views import LaidView, MixViewSet
from zesty_server.passages.views import PassageView, SettleView
from zesty_server.preferences.views import PreferencesView
from zesty_server.recipes.views import RecipeViewSet, SavedSettingsViewSet, StepTypesView
from zesty_server.recordings.room_tone_views import RoomToneViewSet
from zesty_server.recordings.views import RecordingUploadView, RecordingViewSet
from zesty_server.runs.recipe_use import RecipeUseView
from zesty_server.runs.target_checks import TargetCheckView
from zesty_server.runs.views import RunViewSet
from zesty_server.space.views import PutAwayView, RemovalView, SpaceView
from zesty_server.targets.views import BoundedView, TargetViewSet
from zesty_server.uploads.views import UploadViewSet
from zesty_server.watched.views import FoldersView, WatchedFolderViewSet

router = SimpleRouter()
router.register("recordings", RecordingViewSet, "recording")
router.register("uploads", UploadViewSet, "upload")
router.register("room-tones", RoomToneViewSet, "room-tone")
router.register("recipes", RecipeViewSet, "recipe")
router.register("saved-settings", SavedSettingsViewSet, "saved-settings")
router.register("runs", RunViewSet, "run")
router.register("blind-picks", BlindPickViewSet, "blind-pick")
router.register("tastings", TastingViewSet, "tasting")
router.register("batches", BatchViewSet, "batch")
router.register("targets", TargetViewSet, "target")
router.register("beds", BedViewSet, "bed")
router.register("mixes", MixViewSet, "mix")
router.register("watched-folders", WatchedFolderViewSet, "watched-folder")
router.register("house-voices", HouseVoiceViewSet, "house-voice")
router.register("deliveries", DeliveryViewSet, "delivery")

urlpatterns = [
    path("account/", AccountView.as_view(), name="account"),
    path("account/sign-in/", SignInView.as_view(), name="sign-in"),
    path("account/sign-out/", SignOutView.as_view(), name="sign-out"),
    path("account/password/", PasswordView.as_view(), name="password"),
    path("recordings/upload/", RecordingUploadView.as_view(), name="recording-upload"),
    path("recordings/<uuid:pk>/passage/", PassageView.as_view(), name="passage"),
    path("recordings/<uuid:pk>/sides/", SidesView.as_view(), name="sides"),
    path(
        "recordings/<uuid:pk>/client-page/",
        VersionsPageView.as_view(),
        name="recording-client-page",
    ),
    path("recordings/<uuid:pk>/settle/", SettleView.as_view(), name="settle"),
    path("recipes/<uuid:pk>/use/", RecipeUseView.as_view(), name="recipe-use"),
    path("targets/<uuid:pk>/check/", TargetCheckView.as_view(), name="target-check"),
    path("bounded-measures/", BoundedView.as_view(), name="bounded-measures"),
    path("beds/upload/", BedUploadView.as_view(), name="bed-upload"),
    path("bed-settings/", BedSettingsView.as_view(), name="bed-settings"),
    path("runs/<uuid:pk>/bed/", LaidView.as_view(), name="bed-heard"),
    path("covers/", CoverView.as_view(), name="covers"),
    path("folders/", FoldersView.as_view(), name="folders"),
    path("about/", AboutView.as_view(), name="about"),
    path("preferences/", PreferencesView.as_view(), name="preferences"),
    path("put-away/", PutAwayView.as_view(), name="put-away"),
    path("space/", SpaceView.as_view(), name="space"),
    path("space/<str:what>/", RemovalView.as_view(), name="make-room"),
    path("step-types/", StepTypesView.as_view(), name="step-types"),
    *router.urls,
]
