"""Addresses of what can be made of what lies there."""

from django.urls import path

from zester.making import views

app_name = "making"
urlpatterns = [
    path("making/", views.page, name="page"),
    path("making/look/", views.look, name="look"),
    path("making/looking/", views.looking, name="looking"),
    path("making/<int:pk>/plan/", views.plan, name="plan"),
]
