"""All addresses. The class that is open comes first, then the station."""

from django.contrib import admin
from django.contrib.auth.decorators import login_not_required
from django.templatetags.static import static
from django.urls import include, path
from django.utils.functional import lazy
from django.views.generic import RedirectView, TemplateView

from zester.site.find import find
from zester.site.health import health
from zester.site.installed import manifest, worker
from zester.site.removed import removed

urlpatterns = [
    # A page without a head, such as a PDF, has its icon from here.
    path("favicon.ico", login_not_required(RedirectView.as_view(url=lazy(static, str)("zester/icon.svg")))),
    path("", RedirectView.as_view(pattern_name="classes:list"), name="home"),
    path("health/", health, name="health"),
    path("removed/", removed, name="removed"),
    path("find/", find, name="find"),
    path("worker.js", worker, name="worker"),
    path("manifest.webmanifest", manifest, name="manifest"),
    path("help/", TemplateView.as_view(template_name="site/help.html"), name="help"),
    path("", include("zester.accounts.urls")),
    path("", include("zester.printing.urls")),
    path("shelf/", include("zester.shelf.urls")),
    path("", include("zester.classes.urls")),
    path("", include("zester.designs.urls")),
    path("", include("zester.fits.urls")),
    path("", include("zester.casting.urls")),
    path("", include("zester.making.urls")),
    path("", include("zester.money.urls")),
    path("", include("zester.bench.urls")),
    path("", include("zester.bags.urls")),
    path("archive/", include("zester.archive.urls")),
    path("example/", include("zester.demo.urls")),
    path("admin/", admin.site.urls),
]

handler400 = "zester.site.errors.bad_request"
handler403 = "zester.site.errors.forbidden"
handler404 = "zester.site.errors.not_found"
handler500 = "zester.site.errors.server_error"
