from django.apps import AppConfig


class BuildsConfig(AppConfig):
    name = "yardmeter.server.builds"
    label = "builds"
