"""All addresses of the server."""

from django.urls import URLPattern, URLResolver, path, re_path
from drf_spectacular.views import SpectacularAPIView

from nomothet.server import pages
from nomothet.server.analysis import api as analysis
from nomothet.server.docket import api as docket
from nomothet.server.docket.api import DocketView, EntryView
from nomothet.server.evidence import api as evidence
from nomothet.server.evidence import pictures_api as pictures
from nomothet.server.feed.api import feed
from nomothet.server.findings.api import FindingsView
from nomothet.server.history.api import HistoryView
from nomothet.server.imports import api as imports
from nomothet.server.intake import bench_api
from nomothet.server.intake import pasted_api as pasted
from nomothet.server.intake import record_api as record
from nomothet.server.intake.api import FirstRunView, FrameFileView, SetAsideView, TellingView
from nomothet.server.intake.hand_runs import api as hand_runs
from nomothet.server.ladders import api as ladders
from nomothet.server.matrix.api import ComparisonsCsvView, CompletenessView, FiguresCsvView, MatrixView, UnlikeView
from nomothet.server.overview.api import CatalogueView, FitnessView, ReviewsView
from nomothet.server.people.api import SessionView
from nomothet.server.planning.api import PlanView
from nomothet.server.records.api import (
    PublishView,
    RecordCaptureView,
    RecordComparisonsView,
    RecordFiguresView,
    RecordPictureView,
    RecordTraceView,
    RecordView,
)
from nomothet.server.reviews import plan_api
from nomothet.server.reviews.api import BaselineView, ReviewArchiveView, ReviewCopyView, ReviewView
from nomothet.server.searches import api as searches
from nomothet.server.shelf import api as shelf
from nomothet.server.systems import api as systems
from nomothet.server.systems import settings_api as settings
from nomothet.server.workloads import api as workloads

_CELL = "api/reviews/<int:review>/tests/<int:test>/columns/<int:column>"

urlpatterns: list[URLPattern | URLResolver] = [
    path("health", pages.health),
    path("api/schema", SpectacularAPIView.as_view()),
    path("api/session", SessionView.as_view()),
    path("api/feed", feed),
    path("api/history/<slug:kind>/<int:object_id>", HistoryView.as_view()),
    path("api/catalogue", CatalogueView.as_view()),
    path("api/parts", shelf.PartsView.as_view()),
    path("api/parts/import", shelf.PartsImportView.as_view()),
    re_path(r"^api/parts\.(?P<form>csv|json)$", shelf.PartsFileView.as_view()),
    path("api/parts/pasted", shelf.PastedPartsView.as_view()),
    path("api/parts/<int:part>", shelf.PartView.as_view()),
    path("api/parts/<int:part>/copy", shelf.PartCopyView.as_view()),
    path("api/parts/<int:part>/archived", shelf.PartArchiveView.as_view()),
    path("api/parts/<int:part>/prices", shelf.PricesView.as_view()),
    path("api/prices/<int:price>", shelf.PriceView.as_view()),
    path("api/systems", systems.SystemsView.as_view()),
    path("api/systems/<int:system>", systems.SystemView.as_view()),
    path("api/systems/<int:system>/archived", systems.SystemArchiveView.as_view()),
    path("api/systems/<int:system>/bench-token", systems.BenchTokenView.as_view()),
    path("api/systems/<int:system>/inventory-parts", systems.InventoryPartsView.as_view()),
    path("api/systems/<int:system>/populate", systems.PopulateView.as_view()),
    path("api/systems/<int:system>/configurations", systems.ConfigurationsView.as_view()),
    path("api/systems/<int:system>/docket", docket.SystemDocketView.as_view()),
    path("api/systems/<int:system>/log", evidence.SystemLogView.as_view()),
    path("api/systems/<int:system>/changeovers", docket.ChangeoversView.as_view()),
    path("api/systems/<int:system>/releases", docket.ReleasesView.as_view()),
    path("api/changeovers/<int:changeover>", docket.ChangeoverView.as_view()),
    path("api/changeovers/<int:changeover>/ticks", docket.TicksView.as_view()),
    path("api/changeovers/<int:changeover>/ticks/<str:key>", docket.TickView.as_view()),
    path("api/configurations/<int:configuration>", systems.ConfigurationView.as_view()),
    path("api/configurations/<int:configuration>/copy", systems.ConfigurationCopyView.as_view()),
    path("api/configurations/<int:configuration>/archived", systems.ConfigurationArchiveView.as_view()),
    path("api/configurations/<int:configuration>/observations", systems.ObservationsView.as_view()),
    path("api/settings", settings.SettingsView.as_view()),
    path("api/settings/<path:key>", settings.SettingView.as_view()),
    path("api/bundles", settings.BundlesView.as_view()),
    path("api/bundles/<int:bundle>", settings.BundleView.as_view()),
    path("api/workloads", workloads.WorkloadsView.as_view()),
    path("api/workloads/fitness", FitnessView.as_view()),
    path("api/workloads/import", workloads.WorkloadsImportView.as_view()),
    path("api/workloads/try-rule", workloads.TryRuleView.as_view()),
    re_path(r"^api/workloads\.(?P<form>csv|json)$", workloads.WorkloadsFileView.as_view()),
    path("api/workloads/<int:workload>", workloads.WorkloadView.as_view()),
    path("api/workloads/<int:workload>/editions", workloads.EditionsView.as_view()),
    path("api/workloads/<int:workload>/approvals/<int:system>", workloads.ApprovalView.as_view()),
    path("api/workloads/<int:workload>/archived", workloads.WorkloadArchiveView.as_view()),
    path("api/reviews", ReviewsView.as_view()),
    path("api/reviews/<int:review>", ReviewView.as_view()),
    path("api/reviews/<int:review>/baseline/<int:column>", BaselineView.as_view()),
    path("api/reviews/<int:review>/copy", ReviewCopyView.as_view()),
    path("api/reviews/<int:review>/archived", ReviewArchiveView.as_view()),
    path("api/reviews/<int:review>/plan", PlanView.as_view()),
    path("api/reviews/<int:review>/columns", plan_api.ColumnsView.as_view()),
    path("api/reviews/<int:review>/columns/<int:column>", plan_api.ColumnView.as_view()),
    path("api/reviews/<int:review>/tests", plan_api.TestsView.as_view()),
    path("api/reviews/<int:review>/metrics", plan_api.OwnMetricsView.as_view()),
    path("api/reviews/<int:review>/metrics/<str:key>", plan_api.OwnMetricView.as_view()),
    path("api/reviews/<int:review>/tests/table", plan_api.TestTableView.as_view()),
    path("api/reviews/<int:review>/tests/shown", plan_api.ShownView.as_view()),
    path("api/reviews/<int:review>/tests/<int:test>/copy", plan_api.TestCopyView.as_view()),
    path("api/reviews/<int:review>/tests/<int:test>", plan_api.TestView.as_view()),
    path("api/reviews/<int:review>/factors", plan_api.FactorsView.as_view()),
    path("api/reviews/<int:review>/factors/<slug:key>", plan_api.FactorView.as_view()),
    path("api/reviews/<int:review>/caveats", plan_api.CaveatsView.as_view()),
    path("api/reviews/<int:review>/caveats/<str:aspect>", plan_api.CaveatView.as_view()),
    path("api/reviews/<int:review>/combination", plan_api.CombinationView.as_view()),
    path("api/reviews/<int:review>/fitted", plan_api.FittingView.as_view()),
    path("api/reviews/<int:review>/equal", plan_api.EqualView.as_view()),
    path("api/reviews/<int:review>/paste", plan_api.PasteView.as_view()),
    path("api/reviews/<int:review>/matrix", MatrixView.as_view()),
    path("api/reviews/<int:review>/docket", DocketView.as_view()),
    path("api/reviews/<int:review>/typed", record.TypedLookView.as_view()),
    path("api/reviews/<int:review>/sensors", evidence.SensorsView.as_view()),
    path("api/reviews/<int:review>/pasted", pasted.PastedView.as_view()),
    path("api/reviews/<int:review>/typed/<uuid:batch>", record.TypedView.as_view()),
    path("api/reviews/<int:review>/tests/<int:test>/readings/<str:metric>", record.ReadingMethodView.as_view()),
    path("api/reviews/<int:review>/imports/<uuid:job>", imports.ImportView.as_view()),
    path("api/reviews/<int:review>/imports/<uuid:job>/start", imports.ImportStartView.as_view()),
    path("api/column-maps", imports.ColumnMapsView.as_view()),
    path("api/reviews/<int:review>/figures.csv", FiguresCsvView.as_view()),
    path("api/reviews/<int:review>/comparisons.csv", ComparisonsCsvView.as_view()),
    path("api/reviews/<int:review>/records", PublishView.as_view()),
    path(_CELL, evidence.CellView.as_view()),
    path(f"{_CELL}/frames/<uuid:pass_id>", FrameFileView.as_view()),
    path("api/benches", docket.BenchesView.as_view()),
    path("api/docket/<int:entry>", EntryView.as_view()),
    path("api/docket/<int:entry>/hand", hand_runs.HandRunView.as_view()),
    path("api/docket/<int:entry>/hand/ticks", hand_runs.HandTicksView.as_view()),
    path("api/docket/<int:entry>/hand/ticks/<str:key>", hand_runs.HandTickView.as_view()),
    path("api/docket/<int:entry>/hand/clock", hand_runs.HandClockView.as_view()),
    path("api/docket/<int:entry>/hand/end", hand_runs.HandEndView.as_view()),
    path("api/docket/<int:entry>/live", docket.LiveView.as_view()),
    path("api/docket/<int:entry>/marks", record.RunningMarksView.as_view()),
    path("api/docket/<int:entry>/search", searches.EntrySearchView.as_view()),
    path("api/docket/<int:entry>/search/attempts", searches.AttemptsView.as_view()),
    path("api/docket/<int:entry>/search/attempts/<int:position>", searches.AttemptView.as_view()),
    path("api/docket/<int:entry>/search/end", searches.EndView.as_view()),
    path("api/passes/<uuid:pass_id>/search", searches.PassSearchView.as_view()),
    path("api/passes/<uuid:pass_id>/marks", record.PassMarksView.as_view()),
    path("api/passes/<uuid:pass_id>/read-again", record.ReadAgainView.as_view()),
    path("api/passes/<uuid:pass_id>/pictures", record.PicturesView.as_view()),
    path("api/passes/<uuid:pass_id>/figures/<str:metric>", record.CorrectionView.as_view()),
    path("api/marks/<int:mark>", record.MarkView.as_view()),
    path("api/pictures/<int:picture>", record.PictureView.as_view()),
    path("api/passes/<uuid:pass_id>/trace", evidence.TraceView.as_view()),
    path("api/passes/<uuid:pass_id>/set-aside", SetAsideView.as_view()),
    path("api/passes/<uuid:pass_id>/telling", TellingView.as_view()),
    path("api/passes/<uuid:pass_id>/first-run", FirstRunView.as_view()),
    path("api/captures/<int:series>.csv", evidence.CaptureCsvView.as_view()),
    path("api/records/<slug:slug>", RecordView.as_view()),
    path("api/records/<slug:slug>/figures.csv", RecordFiguresView.as_view()),
    path("api/records/<slug:slug>/comparisons.csv", RecordComparisonsView.as_view()),
    path("api/records/<slug:slug>/pictures/<int:picture>", RecordPictureView.as_view()),
    path("api/records/<slug:slug>/traces/<uuid:pass_id>", RecordTraceView.as_view()),
    path("api/records/<slug:slug>/captures/<int:series>.csv", RecordCaptureView.as_view()),
    path("api/passes/<uuid:pass_id>/ranges", analysis.RangesView.as_view()),
    path("api/passes/<uuid:pass_id>/distribution", evidence.DistributionView.as_view()),
    path("api/passes/<uuid:pass_id>/match/<uuid:other>", evidence.MatchView.as_view()),
    path("api/passes/<uuid:pass_id>/unlike/<uuid:other>", UnlikeView.as_view()),
    path("api/passes/<uuid:pass_id>/doubts", analysis.DoubtsView.as_view()),
    path("api/doubts/<int:doubt>", analysis.DoubtView.as_view()),
    path("api/ranges/<int:kept>", analysis.RangeView.as_view()),
    path("api/reviews/<int:review>/hypotheses", analysis.HypothesesView.as_view()),
    path("api/reviews/<int:review>/findings", FindingsView.as_view()),
    path("api/reviews/<int:review>/ladders", ladders.LaddersView.as_view()),
    path("api/ladders/<int:ladder>", ladders.LadderView.as_view()),
    path("api/ladders/<int:ladder>/descent", ladders.DescentView.as_view()),
    path("api/reviews/<int:review>/completeness", CompletenessView.as_view()),
    path("api/reviews/<int:review>/pairs", evidence.PairsView.as_view()),
    path("api/reviews/<int:review>/pictures", pictures.PicturesOfView.as_view()),
    path("api/picture-pairs/<int:pair>", pictures.PicturePairView.as_view()),
    path("api/reviews/<int:review>/enough", evidence.EnoughView.as_view()),
    path("api/reviews/<int:review>/specified", evidence.SpecifiedView.as_view()),
    path("api/reviews/<int:review>/recorder", analysis.RecorderView.as_view()),
    path(f"{_CELL}/looks", analysis.LookView.as_view()),
    path("api/hypotheses/<int:hypothesis>", analysis.HypothesisView.as_view()),
    path("api/hypotheses/<int:hypothesis>/docket", analysis.HypothesisDocketView.as_view()),
    path("api/pairs/<int:pair>", analysis.PairView.as_view()),
    path("api/workloads/<int:workload>/untrusted/<str:metric>", analysis.DistrustView.as_view()),
    path("api/bench/hello", bench_api.HelloView.as_view()),
    path("api/bench/next", bench_api.NextView.as_view()),
    path("api/bench/docket/<int:entry>/progress", bench_api.ProgressView.as_view()),
    path("api/bench/passes/<uuid:pass_id>", bench_api.UploadView.as_view()),
    path("api/bench/passes/<uuid:pass_id>/series/<str:name>", bench_api.ChunkView.as_view()),
    path("api/bench/passes/<uuid:pass_id>/finish", bench_api.FinishView.as_view()),
    re_path(r"^api/", pages.unknown),
    re_path(r"", pages.page),
]
