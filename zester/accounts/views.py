"""Signing in, without losing what was being done; the page of one's account."""

from __future__ import annotations

import json

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import get_user_model, logout, update_session_auth_hash
from django.contrib.auth import views as auth_views
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.forms import PasswordChangeForm
from django.db import transaction
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.middleware.csrf import get_token
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse_lazy
from django.utils import timezone
from django.utils.decorators import method_decorator
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_POST

from zester.accounts import audit
from zester.accounts.forms import ContactForm, DeleteForm, SignInForm
from zester.accounts.models import Session
from zester.accounts.sessions import note_use
from zester.core.errors import storable
from zester.site.kept import kept_fields, shown_fields
from zester.site.owned import locked


@method_decorator(login_not_required, name="dispatch")
class SignIn(auth_views.LoginView):
    """The sign-in page; in place of it, for a script, whether it worked. What was sent before is sent after it."""

    template_name = "accounts/sign_in.html"
    authentication_form = SignInForm
    redirect_authenticated_user = True

    def dispatch(self, request: HttpRequest, *args, **kwargs) -> HttpResponseBase:
        """A script that signs in in place may do so where another window has signed in meanwhile, as somebody else."""
        self.redirect_authenticated_user = not self._in_place
        return super().dispatch(request, *args, **kwargs)

    def form_valid(self, form) -> HttpResponse:
        """Signed in: on to where one was, with what was sent there."""
        answer = super().form_valid(form)
        note_use(self.request)
        if self._in_place:
            return state(self.request)
        kept = _kept(self.request.POST.get("kept", ""))
        if not kept:
            return answer
        return render(
            self.request, "accounts/send_again.html", {"to": answer.url, "kept": kept, "typed": shown_fields(kept)}
        )

    def form_invalid(self, form) -> HttpResponse:
        """Not signed in: why."""
        if self._in_place:
            return JsonResponse({"error": form.non_field_errors()[0] if form.non_field_errors() else "Write both."})
        return self.render_to_response(self.get_context_data(form=form, kept=self.request.POST.get("kept", "")))

    @property
    def _in_place(self) -> bool:
        return self.request.headers.get("X-Requested-With") == "fetch"


def sign_in_first(request: HttpRequest) -> HttpResponse:
    """The sign-in page in answer to a form: what it held is carried along, and sent once one is signed in."""
    kept = kept_fields(request)
    context = {
        "form": SignInForm(request),
        "next": request.path if kept else "",
        "kept": json.dumps(kept, ensure_ascii=False) if kept else "",
        "files": bool(request.FILES),
    }
    return render(request, "accounts/sign_in.html", context, status=401)


def _kept(text: str) -> list[tuple[str, str]]:
    try:
        fields = json.loads(text) if text else []
        return [(str(name), str(value)) for name, value in fields if storable(f"{name}{value}")]
    except (ValueError, TypeError, RecursionError):
        return []


@login_not_required
@never_cache
def state(request: HttpRequest) -> JsonResponse:
    """Who is signed in, and the token that forms of this browser need now: for scripts of pages that stay open."""
    name = request.user.get_username() if request.user.is_authenticated else ""
    return JsonResponse({"user": name, "token": get_token(request)})


def account(request: HttpRequest) -> HttpResponse:
    """One's account: where one is signed in, the password, where to write to."""
    if request.method != "POST":
        return _account_page(request)
    with transaction.atomic():
        user = locked(get_user_model().objects.all(), pk=request.user.pk)
        contact = ContactForm(request.POST, instance=user, user=request.user, prefix="contact")
        if contact.is_valid():
            user.save(update_fields=["email"])
            messages.success(request, "Saved.")
            return redirect("account")
    return _account_page(request, contact=contact)


def _account_page(request: HttpRequest, **forms) -> HttpResponse:
    sessions = Session.objects.filter(user=request.user, expire_date__gt=timezone.now())
    context = {
        "sessions": sessions,
        "here": request.session.session_key,
        "password": PasswordChangeForm(request.user),
        "contact": ContactForm(instance=request.user, user=request.user, prefix="contact"),
        "delete": DeleteForm(user=request.user, prefix="delete"),
        "days": settings.KEEP_REMOVED_DAYS,
    }
    return render(request, "accounts/account.html", context | forms)


@require_POST
def change_password(request: HttpRequest) -> HttpResponse:
    """Another password; all other sessions end."""
    form = PasswordChangeForm(request.user, request.POST)
    if not form.is_valid():
        return _account_page(request, password=form)
    form.save(commit=False)
    form.user.save(update_fields=["password"])
    update_session_auth_hash(request, form.user)
    audit.password_changed(form.user, "by its owner")
    _end(request)
    messages.success(request, "The password is changed; you are signed out everywhere else.")
    return redirect("account")


@require_POST
def delete_account(request: HttpRequest) -> HttpResponse:
    """Everything of one's own goes for good."""
    form = DeleteForm(request.POST, user=request.user, prefix="delete")
    if not form.is_valid():
        return _account_page(request, delete=form)
    user = request.user
    logout(request)
    user.delete()
    messages.success(request, "Your account and everything in it are gone.")
    return redirect("sign_in")


@require_POST
def end_sessions(request: HttpRequest) -> HttpResponse:
    """Sign out everywhere else, or of one session."""
    chosen = request.POST.get("session", "")
    if chosen:
        get_object_or_404(Session, user=request.user, pk=chosen).delete()
        audit.sessions_ended(request.user, 1)
    else:
        _end(request)
    messages.success(request, "Signed out there.")
    return redirect("account")


def _end(request: HttpRequest) -> None:
    others = Session.objects.filter(user=request.user).exclude(pk=request.session.session_key)
    audit.sessions_ended(request.user, others.delete()[0])


@method_decorator(login_not_required, name="dispatch")
class Forgotten(auth_views.PasswordResetView):
    """A link to choose another password, by mail."""

    template_name = "accounts/forgotten.html"
    email_template_name = "accounts/forgotten_mail.txt"
    subject_template_name = "accounts/forgotten_subject.txt"
    success_url = reverse_lazy("forgotten_sent")


@login_not_required
def forgotten_sent(request: HttpRequest) -> HttpResponse:
    """The same words, whether there is such an account or not."""
    return render(request, "accounts/forgotten_sent.html")


@method_decorator(login_not_required, name="dispatch")
class ChooseAnother(auth_views.PasswordResetConfirmView):
    """Another password, by the link."""

    template_name = "accounts/choose_another.html"
    success_url = reverse_lazy("sign_in")

    def form_valid(self, form) -> HttpResponse:
        """Chosen: every session ends."""
        answer = super().form_valid(form)
        audit.password_changed(self.user, "by a link")
        audit.sessions_ended(self.user, Session.objects.filter(user=self.user).delete()[0])
        messages.success(self.request, "The password is changed. Sign in with it.")
        return answer
