"""Addresses of the handbook."""

from django.urls import path

from workshop.handbook import views

urlpatterns = [
    path("", views.handbook, name="handbook"),
    path("<slug:name>/", views.page, name="handbook_page"),
    path("<slug:name>/<slug:anchor>/", views.slip, name="ask"),
]
