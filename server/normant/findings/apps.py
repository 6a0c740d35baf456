from django.apps import AppConfig


class FindingsConfig(AppConfig):
    name = "normant.findings"
    label = "findings"
