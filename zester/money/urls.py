"""Addresses of what a class costs and brings."""

from django.urls import path

from zester.money import views

app_name = "money"
urlpatterns = [
    path("classes/<int:pk>/money/", views.sums, name="sums"),
    path("classes/<int:pk>/money/costs/", views.costs, name="costs"),
    path("classes/<int:pk>/money.csv", views.sums_csv, name="csv"),
]
