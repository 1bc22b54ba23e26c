"""Addresses of the Fit station."""

from django.urls import path, re_path

from zester.fits import views

app_name = "fits"
urlpatterns = [
    path("classes/<int:pk>/fit/", views.sheets, name="sheets"),
    path("classes/<int:pk>/fit/start/", views.start, name="start"),
    path("classes/<int:pk>/fit/pool/", views.pool, name="pool"),
    path("classes/<int:pk>/fit/unpin/", views.unpin_layout, name="unpin"),
    path("fits/<int:pk>/pin/", views.pin_layout, name="pin"),
    path("fits/<int:pk>/ask/", views.ask, name="ask"),
    path("fits/<int:pk>/advice/", views.advice_progress, name="advice"),
    path("fits/<int:pk>/take/", views.take, name="take"),
    path("fits/<int:pk>/progress/", views.progress, name="progress"),
    path("fits/<int:pk>/stop/", views.stop, name="stop"),
    re_path(r"^fits/(?P<pk>\d+)/(?P<what>job|plan)\.json$", views.download, name="download"),
]
