"""Addresses of the Cut station."""

from django.urls import path

from zester.bench import paper_views, views

app_name = "bench"
urlpatterns = [
    path("cut/log/", views.log, name="log"),
    path("cut/log/<int:pk>/pace/", views.take_pace, name="take_pace"),
    path("trimmers/<int:pk>/practice/", views.practice, name="practice"),
    path("trimmers/<int:pk>/practice.pdf", paper_views.practice_pdf, name="practice_pdf"),
    path("classes/<int:pk>/cut/", views.steps, name="steps"),
    path("classes/<int:pk>/cut/evening/", views.evening, name="evening"),
    path("classes/<int:pk>/cut/print/", paper_views.papers, name="print"),
    path("classes/<int:pk>/cut/steps.json", paper_views.steps_json, name="steps_json"),
    path("classes/<int:pk>/cut/cards.pdf", paper_views.cards_pdf, name="cards_pdf"),
    path("classes/<int:pk>/cut/guides.pdf", paper_views.guides_pdf, name="guides_pdf"),
    path("classes/<int:pk>/cut/labels.pdf", paper_views.labels_pdf, name="labels_pdf"),
    path("classes/<int:pk>/cut/self-cut.pdf", paper_views.self_cut_pdf, name="self_cut_pdf"),
    path("classes/<int:pk>/cut/<slug:key>/", views.steps, name="paper"),
    path("classes/<int:pk>/cut/<slug:key>/mark/", views.mark, name="mark"),
    path("classes/<int:pk>/cut/<slug:key>/bench/", views.table, name="table"),
    path("classes/<int:pk>/cut/<slug:key>/rehearsal/", views.rehearsal, name="rehearsal"),
    path("classes/<int:pk>/cut/<slug:key>/ticks/", views.ticks, name="ticks"),
    path("classes/<int:pk>/cut/<slug:key>/state/", views.state, name="state"),
    path("classes/<int:pk>/cut/<slug:key>/wrong/", views.wrong, name="wrong"),
    path("classes/<int:pk>/cut/<slug:key>/short/", views.short, name="short"),
    path("classes/<int:pk>/cut/<slug:key>/mishap/", views.mishap, name="mishap"),
    path("classes/<int:pk>/cut/<slug:key>/mishap/undo/", views.undo_mishap, name="undo_mishap"),
    path("classes/<int:pk>/cut/<slug:key>/layout-<int:number>.svg", paper_views.layout_svg, name="svg"),
    path("classes/<int:pk>/cut/<slug:key>/layout-<int:number>.dxf", paper_views.layout_dxf, name="dxf"),
    path("classes/<int:pk>/cut/<slug:key>/layout-<int:number>/try/", paper_views.try_cutter, name="try_cutter"),
]
