from django.apps import AppConfig


class DeliveriesConfig(AppConfig):
    name = "normant.deliveries"
    label = "deliveries"
