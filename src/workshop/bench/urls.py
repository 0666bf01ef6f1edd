"""Addresses of burns."""

from django.urls import path

from workshop.bench import views

urlpatterns = [
    path("jobs/<int:number>/burn/", views.burn, name="burn"),
    path("jobs/<int:number>/latest/", views.latest, name="latest_run"),
    path("jobs/<int:number>/photograph/", views.photograph, name="photograph"),
    path(
        "jobs/<int:number>/photograph/<slug:what>/",
        views.photograph_bed,
        name="photograph_bed",
    ),
    path("jobs/<int:number>/walk/", views.walk, name="walk"),
    path("lamp/", views.lamp, name="lamp"),
    path("log/", views.log, name="log"),
    path("runs/<int:pk>/go-on/", views.go_on, name="go_on"),
    path("runs/<int:pk>/keep/", views.keep_run, name="keep_run"),
    path("now/", views.now, name="now"),
    path("runs/<int:pk>/", views.run, name="run"),
    path("runs/<int:pk>/stop/", views.stop, name="stop"),
    path("runs/<int:pk>/map.png", views.burn_map, name="burn_map"),
    path("runs/<int:pk>/plan.png", views.plan, name="burn_plan"),
]
