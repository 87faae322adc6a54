"""The reviews app."""

from django.apps import AppConfig


class ReviewsConfig(AppConfig):
    name = "nomothet.server.reviews"
    label = "reviews"
