from django.apps import AppConfig


class DemoConfig(AppConfig):
    name = "yoke_server.demo"
