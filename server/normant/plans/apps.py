from django.apps import AppConfig


class PlansConfig(AppConfig):
    name = "normant.plans"
    label = "plans"
