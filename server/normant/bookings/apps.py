from django.apps import AppConfig


class BookingsConfig(AppConfig):
    name = "normant.bookings"
    label = "bookings"
