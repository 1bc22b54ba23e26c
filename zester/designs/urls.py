"""Addresses of the Design station."""

from django.urls import path, register_converter

from zester.designs import views


class Letter:
    """A card's letter in an address."""

    regex = "[A-Z]"

    def to_python(self, value: str) -> str:
        """As it is."""
        return value

    to_url = to_python


register_converter(Letter, "letter")
app_name = "designs"
urlpatterns = [
    path("classes/<int:pk>/design/", views.desk, name="desk"),
    path("classes/<int:pk>/design/new/", views.new_card, name="new"),
    path("classes/<int:pk>/design/<letter:letter>/", views.desk, name="card"),
    path("classes/<int:pk>/design/<letter:letter>/read/", views.read, name="read"),
    path("classes/<int:pk>/design/<letter:letter>/card/", views.edit_card, name="edit"),
    path("classes/<int:pk>/design/<letter:letter>/remove/", views.remove_card, name="remove"),
    path("cards/<int:pk>/restore/", views.restore_card, name="restore"),
    path("help/cut-list/", views.notation, name="notation"),
]
