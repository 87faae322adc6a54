"""Whatever is owed, the docket has each pass once, and a bench that works it off runs each once."""

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisTestCase

from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.docket.models import Entry, State, WorkOrder
from nomothet.server.docket.queries import system_docket
from nomothet.server.docket.work import work_of
from nomothet.server.people.models import User
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.systems.configurations import add_configuration
from nomothet.server.systems.models import System
from nomothet.server.workloads.models import Workload

FEW = settings(max_examples=20, suppress_health_check=[HealthCheck.too_slow])
OWED = st.dictionaries(st.tuples(st.integers(0, 3), st.integers(0, 2)), st.integers(1, 3), min_size=1, max_size=8)


class Properties(HypothesisTestCase):
    def build(self, owed: dict[tuple[int, int], int], fans: list[int], mode: str, again: bool) -> System:
        user = User.objects.create(username="t", display_name="T", role="editor")
        system = System.objects.create(key="s", name="S", changes_by="bench")
        workload = Workload.objects.create(key="w", name="W", version="1", kind="scene")
        review = Review.objects.create(key="r", question="?", editor=user, returns_to_baseline=again)
        for at, fan in enumerate(fans):
            configuration = add_configuration(
                None, system, name=f"c {at}", settings={"fan_profile": fan, "power_limit_w": 20 + at}
            )
            Column.objects.create(
                review=review, configuration=configuration, position=at, label=f"c {at}", is_baseline=at == 0
            )
        tests = [Test.objects.create(review=review, workload=workload, position=at) for at in range(3)]
        columns = list(review.columns.all())
        for (column, test), count in owed.items():
            ask_for_passes(user, review, [tests[test].pk], [columns[column].pk], count)
        WorkOrder.objects.create(system=system, mode=mode, seed=3)
        return system

    @FEW
    @given(
        OWED,
        st.lists(st.integers(1, 3), min_size=4, max_size=4),
        st.sampled_from(["fewest", "balanced", "shuffled", "by hand"]),
        st.booleans(),
    )
    def test_each_owed_pass_is_on_the_docket_once(
        self, owed: dict[tuple[int, int], int], fans: list[int], mode: str, again: bool
    ) -> None:
        system = self.build(owed, fans, mode, again)
        listed = [e.id for visit in system_docket(system).visits for group in visit.groups for e in group.entries]
        self.assertEqual(sorted(listed), sorted(Entry.objects.values_list("pk", flat=True)))
        for visit in system_docket(system).visits:
            for group in visit.groups:
                for entry in group.entries:
                    self.assertEqual(Entry.objects.get(pk=entry.id).column.configuration_id, visit.configuration)

    @FEW
    @given(OWED, st.lists(st.integers(1, 3), min_size=4, max_size=4), st.booleans())
    def test_worked_off_one_by_one_it_ends_and_never_goes_back_and_forth(
        self, owed: dict[tuple[int, int], int], fans: list[int], again: bool
    ) -> None:
        system = self.build(owed, fans, "fewest", again)
        order: list[int] = []
        while Entry.objects.filter(state=State.OWED).exists():
            visit = work_of(System.objects.select_related("present").get(pk=system.pk)).visits[0]
            Entry.objects.filter(pk=visit.entries[0].pk).update(state=State.DONE)
            System.objects.filter(pk=system.pk).update(present=visit.configuration)
            if not order or order[-1] != visit.configuration.pk:
                order.append(visit.configuration.pk)
        others = [one for one in order if one != order[0]]
        self.assertEqual(len(others), len(set(others)))
