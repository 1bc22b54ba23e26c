"""Addresses of the Fit station."""

from django.urls import path, re_path

from zester.fits import views

app_name = "fits"
urlpatterns = [
    path("classes/<int:pk>/strip/", views.strip, name="strip"),
    path("classes/<int:pk>/fit/", views.wall, name="wall"),
    path("classes/<int:pk>/fit/part/", views.wall_part, name="wall_part"),
    path("classes/<int:pk>/fit/print/", views.print_all, name="print"),
    path("classes/<int:pk>/fit/start/", views.start, name="start"),
    path("classes/<int:pk>/fit/stop/", views.stop, name="stop"),
    path("classes/<int:pk>/fit/auto/", views.auto, name="auto"),
    path("classes/<int:pk>/fit/unpin/", views.unpin_class, name="unpin_class"),
    path("classes/<int:pk>/fit/ask/", views.ask, name="ask"),
    re_path(r"^classes/(?P<pk>\d+)/fit/(?P<what>job|plan)\.json$", views.download, name="download"),
    path("classes/<int:pk>/fit/<slug:key>/", views.paper, name="paper"),
    path("classes/<int:pk>/fit/<slug:key>/state/", views.paper_state, name="paper_state"),
    path("classes/<int:pk>/fit/<slug:key>/pool/", views.pool, name="pool"),
    path("classes/<int:pk>/fit/<slug:key>/pin/", views.pin_layout, name="pin"),
    path("classes/<int:pk>/fit/<slug:key>/unpin/", views.unpin_layout, name="unpin"),
    path("classes/<int:pk>/fit/<slug:key>/release/", views.release, name="release"),
    path("classes/<int:pk>/fit/<slug:key>/advice/", views.advice, name="advice"),
    path("classes/<int:pk>/fit/<slug:key>/take/", views.take, name="take"),
]
