"""Addresses of the shelf."""

from django.urls import path

from zester.shelf import bit_views, stock_views, views

app_name = "shelf"
urlpatterns = [
    path("", views.shelf, name="shelf"),
    path("new/", views.new_paper, name="new"),
    path("lines/", views.as_lines, name="lines"),
    path("lines/table/", views.read_table, name="read_table"),
    path("papers.csv", stock_views.papers_csv, name="papers_csv"),
    path("stock.csv", stock_views.stock_csv, name="stock_csv"),
    path("offcuts.csv", stock_views.offcuts_csv, name="offcuts_csv"),
    path("ledger/", stock_views.ledger, name="ledger"),
    path("entries/<int:pk>/correct/", stock_views.correct_entry, name="correct"),
    path("count/", stock_views.take_stock, name="take_stock"),
    path("offcuts/", stock_views.offcuts, name="offcuts"),
    path("offcuts/<int:pk>/gone/", stock_views.offcut_gone, name="offcut_gone"),
    path("bits/", bit_views.bits, name="bits"),
    path("bits/new/", bit_views.bit, name="new_bit"),
    path("bits/<int:pk>/", bit_views.bit, name="edit_bit"),
    path("bits/<int:pk>/remove/", bit_views.remove_bit, name="remove_bit"),
    path("bits/<int:pk>/restore/", bit_views.restore_bit, name="restore_bit"),
    path("pads/new/", bit_views.pad, name="new_pad"),
    path("pads/<int:pk>/", bit_views.pad, name="edit_pad"),
    path("pads/<int:pk>/bought/", bit_views.pad_bought, name="pad_bought"),
    path("pads/<int:pk>/remove/", bit_views.remove_pad, name="remove_pad"),
    path("pads/<int:pk>/restore/", bit_views.restore_pad, name="restore_pad"),
    path("<int:pk>/", views.edit_paper, name="edit"),
    path("<int:pk>/stock/", stock_views.stock, name="stock"),
    path("<int:pk>/stock/book/", stock_views.book_entry, name="book"),
    path("<int:pk>/sizes/new/", stock_views.sheet, name="new_sheet"),
    path("<int:pk>/sizes/<int:size>/", stock_views.sheet, name="edit_sheet"),
    path("<int:pk>/sizes/<int:size>/remove/", stock_views.remove_sheet, name="remove_sheet"),
    path("<int:pk>/swatch/", views.swatch, name="swatch"),
    path("<int:pk>/forget/", views.forget, name="forget"),
    path("<int:pk>/remove/", views.remove_paper, name="remove"),
    path("<int:pk>/restore/", views.restore_paper, name="restore"),
]
