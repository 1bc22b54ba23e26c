"""What makes Zester an application of a device: its manifest, and the worker that keeps pages for when no line is."""

from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.templatetags.static import static
from django.urls import reverse
from django.views.decorators.cache import cache_control


@login_not_required
@cache_control(no_cache=True)
def worker(request: HttpRequest) -> HttpResponse:
    """The service worker; it stands at the root, because it may only look after what is below it."""
    # Of a file's address the folder is what all have in common, with a hash in its name or without.
    static_url = static("zester/icon.svg").rpartition("zester/")[0]
    context = {"static_url": static_url, "style": static("zester/zester.css")}
    return render(request, "site/worker.js", context, content_type="text/javascript; charset=utf-8")


@login_not_required
@cache_control(max_age=86400)
def manifest(request: HttpRequest) -> JsonResponse:
    """What a device needs to know to install it (W3C, Web Application Manifest)."""
    sizes = (192, 512)
    icons = [
        {"src": static(f"zester/icon-{size}.png"), "sizes": f"{size}x{size}", "type": "image/png", "purpose": purpose}
        for size in sizes
        for purpose in ("any", "maskable")
    ]
    about = {
        "name": "Zester",
        "short_name": "Zester",
        "description": "Cut lists of a card class, fitted onto whole sheets",
        "start_url": reverse("home"),
        "scope": "/",
        "display": "standalone",
        "background_color": "#fbf8f1",
        "theme_color": "#fffefb",
        "icons": icons,
    }
    return JsonResponse(about, content_type="application/manifest+json")
