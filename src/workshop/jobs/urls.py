"""Addresses of the rack and the tickets."""

from django.urls import path

from workshop.jobs.views import contact, files, rack, takes, ticket

urlpatterns = [
    path("", rack.rack, name="rack"),
    path("ready/", rack.ready, name="ready"),
    path("jobs/new/", rack.new_job, name="new_job"),
    path("jobs/<int:number>/", ticket.ticket, name="job"),
    path("jobs/<int:number>/undo/", ticket.step, {"verb": "undo"}, name="undo"),
    path("jobs/<int:number>/redo/", ticket.step, {"verb": "redo"}, name="redo"),
    path("jobs/<int:number>/copy/", rack.copy, name="copy_job"),
    path("jobs/<int:number>/remove/", rack.remove, name="remove_job"),
    path("jobs/<int:number>/readings/", ticket.readings, name="readings"),
    path("jobs/<int:number>/sheet/", ticket.sheet, name="sheet"),
    path("jobs/<int:number>/findings/", ticket.findings, name="findings"),
    path("jobs/<int:number>/findings/<slug:rule>/fix/", ticket.fix, name="fix"),
    path("jobs/<int:number>/sign/", ticket.sign, name="sign"),
    path("jobs/<int:number>/files/<slug:kind>/", files.job_file, name="job_file"),
    path("jobs/<int:number>/sheets/", ticket.add_sheets, name="add_sheets"),
    path("jobs/<int:number>/fonts/", ticket.add_font, name="add_font"),
    path("jobs/<int:number>/pick/", ticket.pick_colour, name="pick_colour"),
    path("jobs/<int:number>/contact/", contact.show, name="contact"),
    path("jobs/<int:number>/contact/<slug:key>.jpg", contact.cell, name="contact_cell"),
    path("jobs/<int:number>/takes/", takes.keep, name="keep_take"),
    path("jobs/<int:number>/takes/compare/", takes.compare, name="compare"),
    path("jobs/<int:number>/takes/between/", takes.between, name="between"),
    path("jobs/<int:number>/takes/strip/", takes.make_strip, name="strip"),
    path("jobs/<int:number>/takes/<int:pk>/<slug:key>.png", takes.piece, name="take_piece"),
    path("jobs/<int:number>/takes/<int:pk>/<slug:verb>/", takes.act, name="take"),
    path("jobs/<int:number>/file.jpg", files.whole_file, name="whole_file"),
    path("jobs/<int:number>/mix/<str:name>/<slug:key>.jpg", files.mix, name="mix"),
    path("sheets/<int:pk>/<int:page>.jpg", files.sheet_thumb, name="sheet_thumb"),
    path("jobs/<int:number>/uncropped.jpg", files.uncropped, name="uncropped"),
    path("jobs/<int:number>/piece/<slug:key>.png", files.piece, name="piece"),
    path("jobs/<int:number>/thumb/<slug:key>.jpg", files.thumb, name="thumb"),
    path(
        "jobs/<int:number>/picture/<slug:view>/<slug:key>/", files.picture, name="picture"
    ),
    path("jobs/<int:number>/<slug:station>/", ticket.station, name="station"),
]
