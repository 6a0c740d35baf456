from django.apps import AppConfig


class OrdersConfig(AppConfig):
    name = "normant.orders"
    label = "orders"
