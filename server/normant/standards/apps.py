from django.apps import AppConfig


class StandardsConfig(AppConfig):
    name = "normant.standards"
    label = "standards"
