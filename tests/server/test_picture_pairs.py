"""Pictures of two configurations beside each other: a statement of the review with its pictures."""

import io
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from nomothet.server.analysis.models import PicturePair
from nomothet.server.passes.models import Picture
from tests.server.base import Browser, SceneTest


def png(shade: int) -> bytes:
    out = io.BytesIO()
    Image.new("L", (64, 48), shade).save(out, format="PNG")
    return out.getvalue()


class PicturePairs(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        first, again = self.fill(0, [60.0, 60.1])
        (other,) = self.fill(1, [55.0], seed=9)
        self.pictures = [self.picture(owner, at) for at, owner in enumerate((first, again, other))]

    def picture(self, owner: str, shade: int) -> int:
        tester = Browser("tester")
        file = SimpleUploadedFile("seen.png", png(40 * shade), "image/png")
        answer = tester.client.post(
            f"/api/passes/{owner}/pictures",
            {"file": file},
            headers={"X-CSRFToken": tester.client.cookies["csrftoken"].value},
        )
        self.assertEqual(answer.status_code, 201, answer.content)
        return Picture.objects.get(owner=owner).pk

    def state(self, a: int = 0, b: int = 2, verdict: str = "equal", words: str = "", who: str = "editor") -> Any:
        body = {"picture_a": self.pictures[a], "picture_b": self.pictures[b], "verdict": verdict, "words": words}
        return Browser(who).send("post", f"{self.review_path}/pictures", body)

    def test_it_is_told_as_a_sentence_with_its_pictures(self) -> None:
        (pair,) = self.state(verdict="not equal", words="the shadows are missing").json()["pairs"]
        self.assertEqual(
            pair["said"], "Reef Walk 2, kelp tunnel: 35 W and 20 W do not look equal: the shadows are missing."
        )
        self.assertEqual((pair["a"]["id"], pair["b"]["id"]), (self.pictures[0], self.pictures[2]))

    def test_two_configurations_of_one_test_and_a_difference_in_words(self) -> None:
        self.assertEqual(self.problem(self.state(b=1), 422)["field"], "picture_b")
        self.assertEqual(self.problem(self.state(verdict="not equal"), 422)["field"], "words")
        self.problem(self.state(verdict="nicer"), 400)
        self.assertFalse(PicturePair.objects.exists())

    def test_two_pictures_are_spoken_of_once_either_way_round(self) -> None:
        self.state()
        self.problem(self.state(a=2, b=0), 409)

    def test_a_picture_that_is_spoken_of_stays(self) -> None:
        pair = self.state().json()["pairs"][0]["id"]
        self.problem(Browser("tester").send("delete", f"/api/pictures/{self.pictures[0]}"), 409)
        self.assertEqual(Browser("editor").send("delete", f"/api/picture-pairs/{pair}").status_code, 204)
        self.assertEqual(Browser("tester").send("delete", f"/api/pictures/{self.pictures[0]}").status_code, 204)

    def test_who_may(self) -> None:
        self.problem(self.state(who="tester"), 403)
        pair = self.state().json()["pairs"][0]["id"]
        self.problem(Browser("tester").send("delete", f"/api/picture-pairs/{pair}"), 403)

    def test_a_record_shows_statement_and_pictures_to_anybody(self) -> None:
        self.state(verdict="cannot tell", words="too dark")
        slug = Browser("editor").send("post", f"{self.review_path}/records", {"change_note": ""}).json()["slug"]
        (pair,) = Browser().json(f"/api/records/{slug}")["content"]["picture_pairs"]
        for side in ("a", "b"):
            self.assertEqual(Browser().get(f"/api/records/{slug}/pictures/{pair[side]['id']}").status_code, 200)
