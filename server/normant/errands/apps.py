from django.apps import AppConfig


class ErrandsConfig(AppConfig):
    name = "normant.errands"
    label = "errands"
