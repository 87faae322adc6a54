"""All addresses of the server."""

from django.urls import URLPattern, URLResolver, path, re_path
from drf_spectacular.views import SpectacularAPIView

from nomothet.server import pages
from nomothet.server.docket.api import DocketView, EntryView
from nomothet.server.feed.api import feed
from nomothet.server.matrix.api import CaptureCsvView, CellView, FiguresCsvView, MatrixView, TraceView
from nomothet.server.passes import bench_api
from nomothet.server.passes.api import FrameFileView, SetAsideView
from nomothet.server.people.api import SessionView
from nomothet.server.records.api import (
    PublishView,
    RecordCaptureView,
    RecordFiguresView,
    RecordTraceView,
    RecordView,
)
from nomothet.server.reviews.api import BaselineView, ReviewsView, ReviewView
from nomothet.server.systems.api import BenchTokenView, SystemsView

_CELL = "api/reviews/<int:review>/tests/<int:test>/columns/<int:column>"

urlpatterns: list[URLPattern | URLResolver] = [
    path("health", pages.health),
    path("api/schema", SpectacularAPIView.as_view()),
    path("api/session", SessionView.as_view()),
    path("api/feed", feed),
    path("api/systems", SystemsView.as_view()),
    path("api/systems/<int:system>/bench-token", BenchTokenView.as_view()),
    path("api/reviews", ReviewsView.as_view()),
    path("api/reviews/<int:review>", ReviewView.as_view()),
    path("api/reviews/<int:review>/baseline/<int:column>", BaselineView.as_view()),
    path("api/reviews/<int:review>/matrix", MatrixView.as_view()),
    path("api/reviews/<int:review>/docket", DocketView.as_view()),
    path("api/reviews/<int:review>/figures.csv", FiguresCsvView.as_view()),
    path("api/reviews/<int:review>/records", PublishView.as_view()),
    path(_CELL, CellView.as_view()),
    path(f"{_CELL}/frames/<uuid:pass_id>", FrameFileView.as_view()),
    path("api/docket/<int:entry>", EntryView.as_view()),
    path("api/passes/<uuid:pass_id>/trace", TraceView.as_view()),
    path("api/passes/<uuid:pass_id>/set-aside", SetAsideView.as_view()),
    path("api/captures/<int:series>.csv", CaptureCsvView.as_view()),
    path("api/records/<slug:slug>", RecordView.as_view()),
    path("api/records/<slug:slug>/figures.csv", RecordFiguresView.as_view()),
    path("api/records/<slug:slug>/traces/<uuid:pass_id>", RecordTraceView.as_view()),
    path("api/records/<slug:slug>/captures/<int:series>.csv", RecordCaptureView.as_view()),
    path("api/bench/hello", bench_api.HelloView.as_view()),
    path("api/bench/next", bench_api.NextView.as_view()),
    path("api/bench/docket/<int:entry>/progress", bench_api.ProgressView.as_view()),
    path("api/bench/passes/<uuid:pass_id>", bench_api.UploadView.as_view()),
    path("api/bench/passes/<uuid:pass_id>/series/<str:name>", bench_api.ChunkView.as_view()),
    path("api/bench/passes/<uuid:pass_id>/finish", bench_api.FinishView.as_view()),
    re_path(r"^api/", pages.unknown),
    re_path(r"", pages.page),
]
