"""Addresses of the example."""

from django.urls import path

from zester.demo import views

app_name = "example"
urlpatterns = [
    path("take/", views.take, name="take"),
    path("throw-away/", views.throw_away, name="throw_away"),
]
