"""Addresses of the classes: their list, and the stations Design and Count."""

from django.urls import path, register_converter

from zester.classes import desk, order_views, payment_views, views


class Letter:
    """A card's letter in an address."""

    regex = "[A-Z]|Kit"

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
    path("classes/<int:pk>/close/", views.close, name="close"),
    path("classes/<int:pk>/closed/", views.closed, name="closed"),
    path("classes/<int:pk>/open/", views.open_again, name="open"),
    path("classes/<int:pk>/copy/", views.copy, name="copy"),
    path("classes/<int:pk>/calendar.ics", views.calendar, name="calendar"),
    path("trimmers/", views.trimmers, name="trimmers"),
    path("trimmers/new/", views.trimmer, name="new_trimmer"),
    path("trimmers/<int:pk>/", views.trimmer, name="edit_trimmer"),
    path("trimmers/<int:pk>/remove/", views.remove_trimmer, name="remove_trimmer"),
    path("trimmers/<int:pk>/restore/", views.restore_trimmer, name="restore_trimmer"),
    path("classes/<int:pk>/count/", views.count, name="count"),
    path("classes/<int:pk>/count/<letter:letter>/also/", views.also, name="also"),
    path("classes/<int:pk>/people/", order_views.people, name="people"),
    path("classes/<int:pk>/people/add/", order_views.add, name="add_people"),
    path("classes/<int:pk>/people/read/", order_views.read_line, name="read_people"),
    path("classes/<int:pk>/people/states/", order_views.states, name="states"),
    path("classes/<int:pk>/people.csv", order_views.people_csv, name="people_csv"),
    path("classes/<int:pk>/people/<int:person>/", order_views.person, name="person"),
    path("classes/<int:pk>/people/<int:person>/data/", order_views.person_data, name="person_data"),
    path("classes/<int:pk>/people/<int:person>/delete/", order_views.delete, name="delete_person"),
    path("classes/<int:pk>/people/<int:person>/payment/", payment_views.add_payment, name="payment"),
    path(
        "classes/<int:pk>/people/<int:person>/payment/<int:payment>/", payment_views.mark_payment, name="mark_payment"
    ),
    path("classes/<int:pk>/people/<int:person>/receipt.pdf", payment_views.receipt, name="receipt"),
    path("classes/<int:pk>/people/unnamed/", payment_views.unnamed, name="unnamed"),
    path("classes/<int:pk>/post/", payment_views.post, name="post"),
    path("classes/<int:pk>/offers/", order_views.offers, name="offers"),
    path("classes/<int:pk>/offers/new/", order_views.offer, name="new_offer"),
    path("classes/<int:pk>/offers/<int:offer>/", order_views.offer, name="offer"),
    path("classes/<int:pk>/offers/<int:offer>/remove/", order_views.remove_offer, name="remove_offer"),
    path("classes/<int:pk>/instead/", order_views.instead, name="instead"),
    path("classes/<int:pk>/instead/<int:row>/remove/", order_views.remove_instead, name="remove_instead"),
    path("classes/<int:pk>/kit/", order_views.kit_list, name="kit_list"),
    path("classes/<int:pk>/design/", desk.desk, name="desk"),
    path("classes/<int:pk>/design/new/", desk.new_card, name="new_card"),
    path("classes/<int:pk>/design/<letter:letter>/", desk.desk, name="card"),
    path("classes/<int:pk>/design/<letter:letter>/read/", desk.read, name="read"),
    path("classes/<int:pk>/design/<letter:letter>/card/", desk.edit_card, name="edit_card"),
    path("classes/<int:pk>/design/<letter:letter>/take/", desk.take, name="take"),
    path("classes/<int:pk>/design/<letter:letter>/remove/", desk.remove_card, name="remove_card"),
    path("class-cards/<int:pk>/put-back/", desk.put_back, name="put_back"),
    path("designs/<int:pk>/use/", desk.use, name="use"),
]
