"""Addresses of the Cut station."""

from django.urls import path

from zester.bench import views

app_name = "bench"
urlpatterns = [
    path("classes/<int:pk>/cut/", views.steps, name="steps"),
    path("classes/<int:pk>/cut/<slug:key>/", views.steps, name="paper"),
    path("classes/<int:pk>/cut/<slug:key>/mark/", views.mark, name="mark"),
]
