"""A desktop with four slots and two kits, for tests of setting up."""

from typing import Any

from django.http import HttpResponse

from nomothet.server.shelf.commands import add_part
from nomothet.server.shelf.models import Part
from nomothet.server.systems.configurations import add_configuration
from nomothet.server.systems.models import Configuration, System
from tests.server.base import Browser, SceneTest

SLOTS = {
    "slots": [
        {"name": "A1", "channel": "A", "fill": 3},
        {"name": "A2", "channel": "A", "fill": 1},
        {"name": "B1", "channel": "B", "fill": 4},
        {"name": "B2", "channel": "B", "fill": 2},
    ],
    "max_gb": 64,
    "speeds": [{"modules_per_channel": 1, "rate_mts": 5600}],
}


def kit(name: str, modules: int, each: float, rate: float) -> Part:
    values = {"modules": modules, "module_gb": each, "rated_mts": rate, "cas": 36}
    attributes = [{"key": key, "value": value, "source": "label"} for key, value in values.items()]
    return add_part(None, kind="memory_kit", name=name, attributes=attributes)


class SettingUp(SceneTest):
    """The scene, and beside it Heron with a base configuration and one that is the same but for its kit."""

    heron: System
    small: Part
    large: Part
    base: Configuration
    other: Configuration

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.heron = System.objects.create(key="heron", name="Heron", slot_map=SLOTS)
        cls.small, cls.large = kit("two of 8", 2, 8, 4800), kit("two of 16", 2, 16, 5600)
        cls.base = add_configuration(
            None,
            cls.heron,
            name="as set up",
            settings={"memory_mts": 4800, "fan_profile": 2},
            fitted={"slot A2": {"part": cls.small.pk, "module": 1}, "slot B2": {"part": cls.small.pk, "module": 2}},
        )
        cls.other = add_configuration(
            None,
            cls.heron,
            name="with the large kit",
            base=cls.base,
            settings={"memory_mts": 5600},
            fitted={"slot A2": {"part": cls.large.pk, "module": 1}, "slot B2": {"part": cls.large.pk, "module": 2}},
        )

    def system(self) -> dict[str, Any]:
        found: dict[str, Any] = Browser("reader").json(f"/api/systems/{self.heron.pk}")
        return found

    def configuration(self, pk: int) -> dict[str, Any]:
        return next(one for one in self.system()["configurations"] if one["id"] == pk)

    def patch(self, path: str, changes: object, version: int, who: str = "tester") -> HttpResponse:
        return Browser(who).send("patch", path, changes, **{"If-Match": f'"v{version}"'})
