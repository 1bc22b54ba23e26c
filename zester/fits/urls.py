"""Addresses of the Fit station."""

from django.urls import path, re_path

from zester.fits import count_views, views

app_name = "fits"
urlpatterns = [
    path("classes/<int:pk>/papers/", count_views.needs, name="needs"),
    path("classes/<int:pk>/papers/part/", count_views.needs_part, name="needs_part"),
    path("classes/<int:pk>/seats/", count_views.seats, name="seats"),
    path("classes/<int:pk>/seats/ask/", count_views.ask_seats, name="ask_seats"),
    path("buying/", count_views.buying, name="buying"),
    path("buying/csv/", count_views.buying_csv, name="buying_csv"),
    path("buying/ask/", count_views.ask_merchant, name="ask_merchant"),
    path("buying/bought/", count_views.bought, name="bought"),
    path("buying/together/", count_views.together, name="together"),
    path("buying/together/part/", count_views.joint_part, name="joint_part"),
    path("classes/<int:pk>/strip/", views.strip, name="strip"),
    path("classes/<int:pk>/fit/", views.wall, name="wall"),
    path("classes/<int:pk>/fit/part/", views.wall_part, name="wall_part"),
    path("classes/<int:pk>/fit/print/", views.print_all, name="print"),
    path("classes/<int:pk>/fit/start/", views.start, name="start"),
    path("classes/<int:pk>/fit/stop/", views.stop, name="stop"),
    path("classes/<int:pk>/fit/auto/", views.auto, name="auto"),
    path("classes/<int:pk>/fit/unpin/", views.unpin_class, name="unpin_class"),
    path("classes/<int:pk>/fit/ask/", views.ask, name="ask"),
    path("classes/<int:pk>/fit/minutes/", views.tradeoff, name="tradeoff"),
    path("classes/<int:pk>/fit/minutes/state/", views.tradeoff_state, name="tradeoff_state"),
    path("classes/<int:pk>/fit/minutes/look/", views.look, name="look"),
    path("classes/<int:pk>/fit/minutes/take/", views.take_all, name="take_all"),
    re_path(r"^classes/(?P<pk>\d+)/fit/(?P<what>job|plan)\.json$", views.download, name="download"),
    path("classes/<int:pk>/fit/<slug:key>/", views.paper, name="paper"),
    path("classes/<int:pk>/fit/<slug:key>/proof.json", views.proof, name="proof"),
    path("classes/<int:pk>/fit/<slug:key>/state/", views.paper_state, name="paper_state"),
    path("classes/<int:pk>/fit/<slug:key>/pool/", views.pool, name="pool"),
    path("classes/<int:pk>/fit/<slug:key>/pin/", views.pin_layout, name="pin"),
    path("classes/<int:pk>/fit/<slug:key>/unpin/", views.unpin_layout, name="unpin"),
    path("classes/<int:pk>/fit/<slug:key>/release/", views.release, name="release"),
    path("classes/<int:pk>/fit/<slug:key>/advice/", views.advice, name="advice"),
    path("classes/<int:pk>/fit/<slug:key>/take/", views.take, name="take"),
]
