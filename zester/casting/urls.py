"""Addresses of guides and castings."""

from django.urls import path

from zester.casting import guide_views, views

app_name = "casting"
urlpatterns = [
    path("guides/", guide_views.guides, name="guides"),
    path("guides/new/", guide_views.guide, name="new"),
    path("guides/read/", guide_views.read, name="read"),
    path("guides/bring/", guide_views.bring, name="bring"),
    path("guides/<int:pk>/", guide_views.guide, name="guide"),
    path("guides/<int:pk>/guide.json", guide_views.save, name="save"),
    path("guides/<int:pk>/guide.pdf", guide_views.print_guide, name="print"),
    path("guides/<int:pk>/remove/", guide_views.remove, name="remove"),
    path("guides/<int:pk>/restore/", guide_views.restore, name="restore"),
    path("classes/<int:pk>/casting/", views.table, name="table"),
    path("classes/<int:pk>/casting/move/", views.move, name="begin"),
    path("classes/<int:pk>/casting/castings/", views.castings, name="castings"),
    path("classes/<int:pk>/casting/uses/", views.uses, name="uses"),
    path("classes/<int:pk>/casting/marks/", views.marks, name="marks"),
    path("classes/<int:pk>/casting/propose/", views.propose, name="propose_first"),
    path("classes/<int:pk>/casting/look/", guide_views.look, name="look"),
    path("classes/<int:pk>/casting/looking/", guide_views.looking, name="looking"),
    path("classes/<int:pk>/casting/take-plans/", guide_views.take_plans, name="take_plans"),
    path("classes/<int:pk>/casting/guide.pdf", views.print_guide, name="class_guide"),
    path("classes/<int:pk>/casting/<int:row>/move/", views.move, name="move"),
    path("classes/<int:pk>/casting/<int:row>/step/", views.step, name="step"),
    path("classes/<int:pk>/casting/<int:row>/propose/", views.propose, name="propose"),
    path("classes/<int:pk>/casting/<int:row>/<str:letter>.svg", views.card, name="card"),
]
