"""Addresses of signing in and of one's account."""

from django.contrib.auth import views as auth_views
from django.urls import path

from zester.accounts import joining, region_views, views

urlpatterns = [
    path("sign-in/", views.SignIn.as_view(), name="sign_in"),
    path("sign-in/state/", views.state, name="sign_in_state"),
    path("sign-in/forgotten/", views.Forgotten.as_view(), name="forgotten"),
    path("sign-in/forgotten/sent/", views.forgotten_sent, name="forgotten_sent"),
    path("sign-in/forgotten/<uidb64>/<token>/", views.ChooseAnother.as_view(), name="password_reset_confirm"),
    path("sign-out/", auth_views.LogoutView.as_view(), name="sign_out"),
    path("sign-up/", joining.sign_up, name="sign_up"),
    path("sign-up/<str:token>/", joining.sign_up, name="sign_up_invited"),
    path("house/", joining.house, name="house"),
    path("house/invite/", joining.invite, name="invite"),
    path("house/invitations/<int:pk>/take-back/", joining.take_back, name="take_back"),
    path("mail/", joining.mail_shown, name="mail"),
    path("account/region/", region_views.region, name="region"),
    path("account/region/guess/", region_views.as_guessed, name="as_guessed"),
    path("house/region/", region_views.region_of_all, name="region_of_all"),
    path("account/", views.account, name="account"),
    path("account/password/", views.change_password, name="change_password"),
    path("account/delete/", views.delete_account, name="delete_account"),
    path("account/sessions/", views.end_sessions, name="end_sessions"),
]
