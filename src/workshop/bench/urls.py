"""Addresses of machines and burns."""

from django.urls import path

from workshop.bench.camera import views as camera
from workshop.bench.files import views as files
from workshop.bench.lessons import views as lessons
from workshop.bench.log import views as log
from workshop.bench.machines import views as machines
from workshop.bench.runs import views as runs

urlpatterns = [
    path("", machines.bench, name="bench"),
    path("machines/first/", machines.first, name="first_machine"),
    path("machines/<int:pk>/", machines.page, name="at_machine"),
    path("machines/<int:pk>/ask/", machines.ask, name="ask_machine"),
    path("machines/<int:pk>/state/", machines.state, name="machine_state"),
    path("machines/<int:pk>/events/", machines.events, name="machine_events"),
    path("machines/<int:pk>/stop/", machines.stop, name="machine_stop"),
    path("machines/<int:pk>/do/<slug:deed>/", machines.do, name="machine_do"),
    path("machines/<int:pk>/transcript.txt", machines.transcript, name="transcript"),
    path("jobs/<int:number>/burn/", runs.burn, name="burn"),
    path("jobs/<int:number>/latest/", runs.latest, name="latest_run"),
    path("jobs/<int:number>/photograph/", camera.photograph, name="photograph"),
    path(
        "jobs/<int:number>/photograph/<slug:what>/",
        camera.photograph_bed,
        name="photograph_bed",
    ),
    path("jobs/<int:number>/walk/", machines.walk_border, name="walk"),
    path("files/", files.files, name="gcode_files"),
    path("files/<int:pk>/", files.file, name="gcode_file"),
    path("files/<int:pk>/burn/", files.burn, name="burn_file"),
    path("files/<int:pk>/walk/", files.walk, name="walk_file"),
    path("files/<int:pk>/picture/", files.with_picture, name="file_with_picture"),
    path("files/<int:pk>/remove/", files.remove, name="remove_file"),
    path("files/<int:pk>/<slug:what>.png", files.picture, name="file_picture"),
    path("files/burns/<int:pk>/stop/", files.stop, name="stop_file"),
    path("lamp/", log.lamp, name="lamp"),
    path("log/", log.log, name="log"),
    path("log/beside/", log.beside, name="beside"),
    path("log/<int:pk>/", log.logged, name="logged"),
    path("log/<int:pk>/again/", log.again, name="burn_again"),
    path("log/<int:pk>/photograph/", lessons.photograph, name="photograph_piece"),
    path("log/<int:pk>/read/", lessons.read, name="read_piece"),
    path("log/<int:pk>/leave-out/", lessons.leave_out, name="leave_out"),
    path("log/<int:pk>/amend/", lessons.amend, name="amend_recipe"),
    path("log/<int:pk>/<slug:kind>.png", lessons.picture, name="lesson_picture"),
    path("log/<int:pk>/proof.jpg", log.proof, name="burn_proof"),
    path("log/<int:pk>/photo.jpg", log.photo, name="burn_photo"),
    path("now/", log.now, name="now"),
    path("runs/<int:pk>/", runs.run, name="run"),
    path("runs/<int:pk>/go-on/", runs.go_on, name="go_on"),
    path("runs/<int:pk>/hold/", runs.hold, name="hold_run"),
    path("runs/<int:pk>/keep/", log.keep_run, name="keep_run"),
    path("runs/<int:pk>/map.png", runs.burn_map, name="burn_map"),
    path("runs/<int:pk>/path.png", machines.path_picture, name="run_path"),
    path("runs/<int:pk>/row/", machines.row, name="run_row"),
    path("runs/<int:pk>/plan.png", runs.plan, name="burn_plan"),
    path("runs/<int:pk>/stop/", runs.stop, name="stop"),
]
