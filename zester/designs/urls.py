"""Addresses of the designs: the library, the desk, the tools."""

from django.urls import path

from zester.designs import library, views

app_name = "designs"
urlpatterns = [
    path("designs/", library.library, name="library"),
    path("designs/new/", library.new_design, name="new_design"),
    path("designs/<int:pk>/", library.design, name="design"),
    path("designs/<int:pk>/desk/", views.alone, name="alone"),
    path("designs/<int:pk>/read/", views.read_alone, name="read_alone"),
    path("designs/<int:pk>/step/", views.step, name="step"),
    path("designs/<int:pk>/move/", views.move, name="move"),
    path("designs/<int:pk>/cells/", views.cells, name="cells"),
    path("designs/<int:pk>/table/", views.table, name="table"),
    path("designs/<int:pk>/sizes/", views.sizes, name="sizes"),
    path("designs/<int:pk>/put-on-shelf/", views.put_on_shelf, name="put_on_shelf"),
    path("designs/<int:pk>/understand/", views.understand, name="understand"),
    path("designs/<int:pk>/copy/", library.copy, name="copy"),
    path("designs/<int:pk>/remove/", library.remove_design, name="remove_design"),
    path("designs/<int:pk>/keep/", library.keep, name="keep"),
    path("photos/<int:pk>/", library.photo, name="photo"),
    path("photos/<int:pk>/words/", library.photo_words, name="photo_words"),
    path("photos/<int:pk>/remove/", library.remove_photo, name="remove_photo"),
    path("photos/<int:pk>/restore/", library.restore_photo, name="restore_photo"),
    path("designs/<int:pk>/list.<slug:ending>", library.export, name="export"),
    path("designs/<int:pk>/take-in/", library.take_in, name="take_in"),
    path("designs/<int:pk>/columns/", library.columns, name="columns"),
    path("designs/<int:pk>/cover.svg", library.cover, name="cover"),
    path("designs/<int:pk>/<slug:view>.svg", library.drawing, name="drawing"),
    path("designs/<int:pk>/print/", library.print_card, name="print"),
    path("kept-lists/<int:pk>/bring-back/", library.bring_back, name="bring_back"),
    path("tools/", library.tools, name="tools"),
    path("tools/new/", library.new_tool, name="new_tool"),
    path("tools/<int:pk>/", library.edit_tool, name="edit_tool"),
    path("tools/<int:pk>/remove/", library.remove_tool, name="remove_tool"),
    path("tools/<int:pk>/restore/", library.restore_tool, name="restore_tool"),
    path("words/", library.own_word, name="own_word"),
    path("words/<int:pk>/remove/", library.remove_word, name="remove_word"),
    path("words/<int:pk>/restore/", library.restore_word, name="restore_word"),
    path("cards/<int:pk>/restore/", views.restore_card, name="restore"),
    path("help/cut-list/", views.notation, name="notation"),
]
