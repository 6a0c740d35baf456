"""The agents' door: every path under /api/v1/agent/."""

from django.urls import path, re_path
from django.urls.resolvers import RegexPattern, URLResolver

from . import views

DIGEST = "(?P<digest>[0-9a-f]{64})"

urlpatterns = [
    path("enrol", views.enrol),
    path("dialects", views.dialects),
    path("survey", views.survey),
    path("wait", views.wait),
    path("orders", views.orders),
    path("orders/<str:order>/progress", views.progress),
    path("orders/<str:order>/receipt", views.receipt),
    path("refusals", views.refusal),
    re_path(rf"^packages/{DIGEST}$", views.package),
    re_path(rf"^templates/{DIGEST}$", views.template),
]
resolver = URLResolver(RegexPattern(r"^"), urlpatterns)
