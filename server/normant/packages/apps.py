from django.apps import AppConfig


class PackagesConfig(AppConfig):
    name = "normant.packages"
    label = "packages"
