from django.apps import AppConfig


class TemplatesConfig(AppConfig):
    name = "normant.templates"
    label = "templates"
