"""Addresses of the Cut station."""

from django.urls import path

from zester.bench import views

app_name = "bench"
urlpatterns = [
    path("classes/<int:pk>/cut/", views.steps, name="steps"),
    path("classes/<int:pk>/cut/<int:number>/", views.steps, name="paper"),
]
