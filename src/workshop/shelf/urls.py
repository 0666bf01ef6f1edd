"""Addresses of the shelf."""

from django.urls import path

from workshop.shelf import views

urlpatterns = [
    path("", views.shelf, name="shelf"),
    path("blanks/new/", views.blank, name="new_blank"),
    path("blanks/preview/", views.preview, name="preview_blank"),
    path("blanks/<int:pk>/", views.blank, name="blank"),
    path("blanks/<int:pk>/preview/", views.preview, name="preview_blank"),
    path("blanks/<int:pk>/duplicate/", views.duplicate, name="duplicate_blank"),
    path("blanks/<int:pk>/remove/", views.remove, name="remove_blank"),
    path("blanks/<int:pk>/photo.jpg", views.photo, name="blank_photo"),
]
