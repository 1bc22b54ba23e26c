"""Addresses of the shelf."""

from django.urls import path

from zester.shelf import views

app_name = "shelf"
urlpatterns = [
    path("", views.shelf, name="shelf"),
    path("new/", views.new_paper, name="new"),
    path("lines/", views.as_lines, name="lines"),
    path("<int:pk>/", views.edit_paper, name="edit"),
    path("<int:pk>/swatch/", views.swatch, name="swatch"),
    path("<int:pk>/forget/", views.forget, name="forget"),
    path("<int:pk>/remove/", views.remove_paper, name="remove"),
    path("<int:pk>/restore/", views.restore_paper, name="restore"),
]
