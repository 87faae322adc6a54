"""The installation's own scanner looks at what people bring in."""

import shlex
import sys
import uuid

from django.test import override_settings

from nomothet.server.imports.models import ImportJob
from nomothet.server.passes.models import Pass, Picture
from tests.server.base import Browser, SceneTest

# Refuses what holds a word, and says so.
_SCANNER = f"{sys.executable} -c " + shlex.quote(
    "import sys; bad = b'EVIL' in sys.stdin.buffer.read(); print('a bad word' if bad else ''); sys.exit(bad)"
)
_FRAMES = b"frame_ms\n" + b"16.7\n" * 400


class Scanning(SceneTest):
    def drop(self, content: bytes) -> int:
        cell = f"{self.review_path}/tests/{self.scene.tests[0].pk}/columns/{self.scene.columns[0].pk}"
        answer = Browser("tester").drop_file(f"{cell}/frames/{uuid.uuid4()}", content)
        self.answer = answer
        return answer.status_code

    def test_without_a_scanner_nothing_is_run(self) -> None:
        self.assertEqual(self.drop(_FRAMES), 201)

    @override_settings(SCANNER=_SCANNER)
    def test_what_it_lets_in_is_taken_whole_and_what_it_refuses_is_not(self) -> None:
        self.assertEqual(self.drop(_FRAMES), 201)
        self.assertEqual(self.drop(b"frame_ms\nEVIL\n" + _FRAMES), 422)
        self.assertIn("a bad word", self.answer.content.decode())
        (kept,) = Pass.objects.all()
        self.assertEqual(kept.figures.filter(metric="average_fps").count(), 1)

    @override_settings(SCANNER="/no/such/scanner --quick")
    def test_where_it_cannot_look_the_file_stays_out(self) -> None:
        self.assertEqual(self.drop(_FRAMES), 503)
        self.assertEqual(Pass.objects.count(), 0)

    @override_settings(SCANNER=f"{sys.executable} -c 'import sys; sys.exit(0)'")
    def test_one_that_reads_nothing_holds_nothing_up(self) -> None:
        self.assertEqual(self.drop(b"frame_ms\n" + b"16.7\n" * 100_000), 201)

    @override_settings(SCANNER=_SCANNER)
    def test_archives_pictures_and_packages_are_looked_at_too(self) -> None:
        tester, job = Browser("tester"), uuid.uuid4()
        refused = tester.drop_file(f"{self.review_path}/imports/{job}", b"EVIL", "runs.zip")
        self.assertEqual(refused.status_code, 422, refused.content)
        self.assertIn("a bad word", refused.content.decode())
        self.assertEqual(ImportJob.objects.count(), 0)
        owner = self.fill(0, [60.0])[0]
        refused = tester.client.post(
            f"/api/passes/{owner}/pictures",
            b'--cut\r\nContent-Disposition: form-data; name="file"; filename="a.png"\r\n\r\nEVIL\r\n--cut--\r\n',
            content_type="multipart/form-data; boundary=cut",
            headers={"X-CSRFToken": tester.client.cookies["csrftoken"].value},
        )
        self.assertIn("a bad word", refused.content.decode())
        self.assertEqual(Picture.objects.count(), 0)
