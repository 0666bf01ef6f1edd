"""Addresses of what is kept."""

from django.urls import path

from workshop.keeping import views

urlpatterns = [
    path("", views.keeping, name="keeping"),
    path("now/", views.backup, name="backup"),
    path("<str:name>", views.kept, name="kept_backup"),
]
