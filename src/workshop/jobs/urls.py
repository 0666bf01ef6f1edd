"""Addresses of the rack and the tickets."""

from django.urls import path

from workshop.jobs import views

urlpatterns = [
    path("", views.rack, name="rack"),
    path("ready/", views.ready, name="ready"),
    path("jobs/new/", views.new_job, name="new_job"),
    path("jobs/<int:number>/", views.ticket, name="job"),
    path("jobs/<int:number>/undo/", views.step, {"verb": "undo"}, name="undo"),
    path("jobs/<int:number>/redo/", views.step, {"verb": "redo"}, name="redo"),
    path("jobs/<int:number>/copy/", views.copy, name="copy_job"),
    path("jobs/<int:number>/remove/", views.remove, name="remove_job"),
    path("jobs/<int:number>/readings/", views.readings, name="readings"),
    path("jobs/<int:number>/sheet/", views.sheet, name="sheet"),
    path("jobs/<int:number>/findings/", views.findings, name="findings"),
    path("jobs/<int:number>/findings/<slug:rule>/fix/", views.fix, name="fix"),
    path("jobs/<int:number>/sign/", views.sign, name="sign"),
    path("jobs/<int:number>/files/<slug:kind>/", views.job_file, name="job_file"),
    path("jobs/<int:number>/uncropped.jpg", views.uncropped, name="uncropped"),
    path("jobs/<int:number>/thumb/<slug:key>.jpg", views.thumb, name="thumb"),
    path(
        "jobs/<int:number>/picture/<slug:view>/<slug:key>/", views.picture, name="picture"
    ),
    path("jobs/<int:number>/<slug:station>/", views.station, name="station"),
]
