"""Accounts over HTTP."""

from __future__ import annotations

from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from zesty_server.accounts.selectors import entry
from zesty_server.accounts.serializers import (
    ChangePasswordSerializer,
    EntrySerializer,
    SignInSerializer,
)
from zesty_server.accounts.services import change_own_password, sign_in, sign_out
from zesty_server.accounts.sign_in_tries import succeeded
from zesty_server.accounts.throttles import SignInThrottle, try_of


class AccountView(APIView):
    """Who is signed in."""

    permission_classes = ()

    @extend_schema(responses=EntrySerializer)
    def get(self, request: Request) -> Response:
        """Whether one has to sign in, and who has."""
        return Response(EntrySerializer(entry(request.user)).data)


class SignInView(APIView):
    """The way in."""

    permission_classes = ()
    throttle_classes = (SignInThrottle,)

    @extend_schema(request=SignInSerializer, responses=EntrySerializer)
    def post(self, request: Request) -> Response:
        """Sign in."""
        wanted = SignInSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        tried = try_of(request)
        account = sign_in(request._request, **wanted.validated_data)
        succeeded(tried)
        return Response(EntrySerializer(entry(account)).data)


class SignOutView(APIView):
    """The way out."""

    @extend_schema(request=None, responses=EntrySerializer)
    def post(self, request: Request) -> Response:
        """Sign out."""
        sign_out(request._request)
        return Response(EntrySerializer(entry(None)).data)


class PasswordView(APIView):
    """The password of who is signed in."""

    throttle_classes = (SignInThrottle,)

    @extend_schema(request=ChangePasswordSerializer, responses={204: None})
    def put(self, request: Request) -> Response:
        """Change it."""
        wanted = ChangePasswordSerializer(data=request.data)
        wanted.is_valid(raise_exception=True)
        change_own_password(request._request, **wanted.validated_data)
        succeeded(try_of(request))
        return Response(status=204)
