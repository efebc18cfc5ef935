from django.apps import AppConfig


class ShelfConfig(AppConfig):
    name = "yardmeter.server.shelf"
    label = "shelf"
