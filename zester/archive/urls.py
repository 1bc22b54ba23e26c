"""Addresses of the archive."""

from django.urls import path

from zester.archive import views

app_name = "archive"
urlpatterns = [
    path("", views.archive, name="archive"),
    path("save/", views.save, name="save"),
    path("bring-in/", views.bring_in, name="bring_in"),
    path("<int:pk>/", views.intake, name="intake"),
    path("<int:pk>/answer/", views.answer_intake, name="answer"),
]
