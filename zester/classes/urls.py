"""Addresses of the classes."""

from django.urls import path

from zester.classes import views

app_name = "classes"
urlpatterns = [
    path("", views.class_list, name="list"),
    path("new/", views.new_class, name="new"),
    path("<int:pk>/", views.edit_class, name="edit"),
    path("<int:pk>/remove/", views.remove_class, name="remove"),
    path("<int:pk>/restore/", views.restore_class, name="restore"),
    path("<int:pk>/count/", views.count, name="count"),
]
