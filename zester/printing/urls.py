"""Addresses of files to print."""

from django.urls import path

from zester.printing import views

app_name = "printing"
urlpatterns = [
    path("prints/", views.files, name="files"),
    path("prints/<int:pk>/", views.waiting, name="waiting"),
    path("prints/<int:pk>/file/", views.file, name="file"),
]
