from django.apps import AppConfig


class ShopConfig(AppConfig):
    name = "shop"

    def ready(self) -> None:
        from definition.stock_levels import RESERVATIONS

        from shop.stock import reserved

        RESERVATIONS.append(reserved)
