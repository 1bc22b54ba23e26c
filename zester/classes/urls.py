"""Addresses of the classes: their list, and the stations Design and Count."""

from django.urls import path, register_converter

from zester.classes import desk, views


class Letter:
    """A card's letter in an address."""

    regex = "[A-Z]"

    def to_python(self, value: str) -> str:
        """As it is."""
        return value

    to_url = to_python


register_converter(Letter, "letter")
app_name = "classes"
urlpatterns = [
    path("classes/", views.class_list, name="list"),
    path("classes/new/", views.new_class, name="new"),
    path("classes/<int:pk>/", views.edit_class, name="edit"),
    path("classes/<int:pk>/remove/", views.remove_class, name="remove"),
    path("classes/<int:pk>/restore/", views.restore_class, name="restore"),
    path("classes/<int:pk>/count/", views.count, name="count"),
    path("classes/<int:pk>/design/", desk.desk, name="desk"),
    path("classes/<int:pk>/design/new/", desk.new_card, name="new_card"),
    path("classes/<int:pk>/design/<letter:letter>/", desk.desk, name="card"),
    path("classes/<int:pk>/design/<letter:letter>/read/", desk.read, name="read"),
    path("classes/<int:pk>/design/<letter:letter>/card/", desk.edit_card, name="edit_card"),
    path("classes/<int:pk>/design/<letter:letter>/remove/", desk.remove_card, name="remove_card"),
    path("class-cards/<int:pk>/put-back/", desk.put_back, name="put_back"),
    path("designs/<int:pk>/use/", desk.use, name="use"),
]
