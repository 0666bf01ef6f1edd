"""Addresses of the whole application."""

from django.contrib.auth.views import LoginView, LogoutView
from django.urls import include, path

urlpatterns = [
    path("", include("workshop.jobs.urls")),
    path("backups/", include("workshop.keeping.urls")),
    path("shelf/", include("workshop.shelf.urls")),
    path("bench/", include("workshop.bench.urls")),
    path("handbook/", include("workshop.handbook.urls")),
    path("sign-in/", LoginView.as_view(template_name="shell/sign_in.html"), name="login"),
    path("sign-out/", LogoutView.as_view(), name="logout"),
]

handler400 = "workshop.shell.views.bad_request"
handler403 = "workshop.shell.views.forbidden"
handler404 = "workshop.shell.views.not_found"
handler500 = "workshop.shell.views.broken"
