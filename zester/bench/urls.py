"""Addresses of the Cut station."""

from django.urls import path

from zester.bench import print_views, together, views

app_name = "bench"
urlpatterns = [
    path("cut/log/", views.log, name="log"),
    path("cut/log/<int:pk>/pace/", views.take_pace, name="take_pace"),
    path("trimmers/<int:pk>/practice/", views.practice, name="practice"),
    path("trimmers/<int:pk>/practice.pdf", print_views.practice_pdf, name="practice_pdf"),
    path("classes/<int:pk>/cut/", views.steps, name="steps"),
    path("classes/<int:pk>/cut/evening/", views.evening, name="evening"),
    path("classes/<int:pk>/cut/evening/done/", views.job_done, name="job_done"),
    path("classes/<int:pk>/cut/together/", together.page, name="together"),
    path("classes/<int:pk>/cut/together/look/", together.look, name="together_look"),
    path("classes/<int:pk>/cut/together/looking/", together.looking, name="together_looking"),
    path("classes/<int:pk>/cut/together/begin/", together.begin, name="together_begin"),
    path("classes/<int:pk>/cut/print/", print_views.papers, name="print"),
    path("classes/<int:pk>/cut/steps.json", print_views.steps_json, name="steps_json"),
    path("classes/<int:pk>/cut/cards.pdf", print_views.cards_pdf, name="cards_pdf"),
    path("classes/<int:pk>/cut/guides.pdf", print_views.guides_pdf, name="guides_pdf"),
    path("classes/<int:pk>/cut/labels.pdf", print_views.labels_pdf, name="labels_pdf"),
    path("classes/<int:pk>/cut/self-cut.pdf", print_views.self_cut_pdf, name="self_cut_pdf"),
    path("classes/<int:pk>/cut/<slug:key>/", views.steps, name="paper"),
    path("classes/<int:pk>/cut/<slug:key>/mark/", views.mark, name="mark"),
    path("classes/<int:pk>/cut/<slug:key>/bench/", views.table, name="table"),
    path("classes/<int:pk>/cut/<slug:key>/looking/", views.looking, name="looking"),
    path("classes/<int:pk>/cut/<slug:key>/rehearsal/", views.rehearsal, name="rehearsal"),
    path("classes/<int:pk>/cut/<slug:key>/ticks/", views.ticks, name="ticks"),
    path("classes/<int:pk>/cut/<slug:key>/state/", views.state, name="state"),
    path("classes/<int:pk>/cut/<slug:key>/wrong/", views.wrong, name="wrong"),
    path("classes/<int:pk>/cut/<slug:key>/short/", views.short, name="short"),
    path("classes/<int:pk>/cut/<slug:key>/mishap/", views.mishap, name="mishap"),
    path("classes/<int:pk>/cut/<slug:key>/mishap/undo/", views.undo_mishap, name="undo_mishap"),
    path("classes/<int:pk>/cut/<slug:key>/layout-<int:number>.svg", print_views.layout_svg, name="svg"),
    path("classes/<int:pk>/cut/<slug:key>/layout-<int:number>.dxf", print_views.layout_dxf, name="dxf"),
    path("classes/<int:pk>/cut/<slug:key>/layout-<int:number>/try/", print_views.try_cutter, name="try_cutter"),
]
