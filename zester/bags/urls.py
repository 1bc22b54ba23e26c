"""Addresses of the Pack station."""

from django.urls import path

from zester.bags import views

app_name = "bags"
urlpatterns = [path("classes/<int:pk>/pack/", views.pack, name="pack")]
