"""All addresses. The class that is open comes first, then the station."""

from django.contrib import admin
from django.contrib.auth import views as auth_views
from django.contrib.auth.decorators import login_not_required
from django.urls import include, path
from django.views.generic import RedirectView

sign_in = login_not_required(
    auth_views.LoginView.as_view(template_name="site/sign_in.html", redirect_authenticated_user=True)
)

urlpatterns = [
    path("", RedirectView.as_view(pattern_name="classes:list"), name="home"),
    path("sign-in/", sign_in, name="sign_in"),
    path("sign-out/", auth_views.LogoutView.as_view(), name="sign_out"),
    path("shelf/", include("zester.shelf.urls")),
    path("", include("zester.classes.urls")),
    path("", include("zester.designs.urls")),
    path("", include("zester.fits.urls")),
    path("", include("zester.bench.urls")),
    path("", include("zester.bags.urls")),
    path("admin/", admin.site.urls),
]
