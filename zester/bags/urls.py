"""Addresses of the Pack station."""

from django.urls import path

from zester.bags import evening_views, handout_views, print_views, ready_views, step_views, views

app_name = "bags"
urlpatterns = [
    path("classes/<int:pk>/pack/", views.pack, name="pack"),
    path("classes/<int:pk>/pack/bags/<slug:stack>/", views.stack, name="stack"),
    path("classes/<int:pk>/pack/kit/<slug:kit>/", views.kit, name="kit"),
    path("classes/<int:pk>/pack/bag/<slug:bag>/", views.bag, name="bag"),
    path("classes/<int:pk>/pack/ticks/", views.ticks, name="ticks"),
    path("classes/<int:pk>/pack/state/", views.state, name="state"),
    path("classes/<int:pk>/pack/how/", views.how, name="how"),
    path("classes/<int:pk>/pack/again/", views.again, name="again"),
    path("classes/<int:pk>/pack/surplus/", views.surplus, name="surplus"),
    path("classes/<int:pk>/pack/shelve/", ready_views.shelve, name="shelve"),
    path("classes/<int:pk>/pack/ready/<int:row>/", ready_views.take, name="take_ready"),
    path("ready-kits/", ready_views.ready_kits, name="ready"),
    path("ready-kits/<int:pk>/", ready_views.let_go, name="let_go"),
    path("ready-kits/<int:pk>/hand-out/", ready_views.hand_out, name="hand_out"),
    path("classes/<int:pk>/pack/made/", ready_views.shelve_made, name="shelve_made"),
    path("classes/<int:pk>/pack/short/", views.short, name="short"),
    path("classes/<int:pk>/pack/missing/", views.missing, name="missing"),
    path("classes/<int:pk>/pack/short/<int:row>/", views.shortage, name="shortage"),
    path("classes/<int:pk>/pack/checks/", views.checks, name="checks"),
    path("classes/<int:pk>/pack/labels/", print_views.papers, name="print"),
    path("classes/<int:pk>/pack/labels/<slug:what>.pdf", print_views.labels_pdf, name="labels_pdf"),
    path("classes/<int:pk>/pack/list.pdf", print_views.list_pdf, name="list_pdf"),
    path("classes/<int:pk>/pack/hand-out/", handout_views.handout, name="handout"),
    path("classes/<int:pk>/pack/hand-out.pdf", handout_views.handout_pdf, name="handout_pdf"),
    path("classes/<int:pk>/pack/guides.pdf", handout_views.guides_pdf, name="guides_pdf"),
    path("classes/<int:pk>/pack/hand-out/<slug:letter>/words/", handout_views.words, name="words"),
    path("classes/<int:pk>/pack/hand-out/<slug:letter>/steps/", step_views.arrange, name="arrange"),
    path("classes/<int:pk>/pack/evening/", evening_views.evening, name="evening"),
    path("classes/<int:pk>/pack/teach/", evening_views.teach, name="teach"),
    path("classes/<int:pk>/pack/teach/note/", evening_views.note, name="note"),
    path("classes/<int:pk>/pack/share/", handout_views.share, name="share"),
    path("with/<str:token>/", handout_views.shared, name="shared"),
    path("with/<str:token>/now/", evening_views.now, name="now"),
]
