"""The agents' door: every path under /api/v1/agent/."""

from django.urls import path
from django.urls.resolvers import RegexPattern, URLResolver

from . import views

urlpatterns = [
    path("enrol", views.enrol),
    path("dialects", views.dialects),
    path("survey", views.survey),
    path("wait", views.wait),
    path("orders", views.orders),
    path("orders/<str:order>/progress", views.progress),
    path("orders/<str:order>/receipt", views.receipt),
    path("orders/<uuid:order>/list/<int:number>", views.list_part),
    path("orders/<uuid:order>/deleted", views.deleted),
    path("exports", views.exports),
    path("refusals", views.refusal),
    path("packages/<str:digest>", views.package),
    path("templates/<str:digest>", views.template),
    path("clips/<str:digest>", views.clip),
]
resolver = URLResolver(RegexPattern(r"^"), urlpatterns)
