"""Addresses of the shelf."""

from django.urls import path

from workshop.shelf import views

urlpatterns = [path("", views.shelf, name="shelf")]
