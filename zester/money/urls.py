"""Addresses of what a class costs and brings."""

from django.urls import path, re_path

from zester.money import views

app_name = "money"
urlpatterns = [
    path("classes/<int:pk>/money/", views.sums, name="sums"),
    path("classes/<int:pk>/money/costs/", views.costs, name="costs"),
    path("classes/<int:pk>/closing/", views.closing, name="closing"),
    path("log/", views.log, name="log"),
    re_path(r"^log\.(?P<kind>csv|json)$", views.log_file, name="log_file"),
    path("classes/<int:pk>/money.csv", views.sums_csv, name="csv"),
]
