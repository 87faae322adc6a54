"""Letters about what is new: to whom, of what, once; and through a mail server that speaks SMTP."""

import socketserver
import threading
from datetime import date, timedelta
from unittest import mock

from django.core import mail
from django.test import override_settings

from nomothet.server.follow_ups.models import FollowUp
from nomothet.server.people.preferences import MAIL_KINDS, set_preferences
from nomothet.server.upkeep.mailing import mail_what_is_new
from tests.server.base import Browser, SceneTest

_SMTP = "django.core.mail.backends.smtp.EmailBackend"


@override_settings(EMAIL_HOST="mail.example", ADDRESS="https://bench.example")
class Letters(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.editor = self.scene.people["editor"]
        set_preferences(self.editor, email="editor@team.example", mail=list(MAIL_KINDS))

    def crash(self) -> None:
        self.scene.owe()
        self.bench.deliver(outcome="crashed", note="the picture froze")

    def comment(self) -> None:
        Browser("tester").send("post", f"{self.review_path}/talk", {"text": "@editor please look"})

    def test_one_letter_holds_all_that_is_new_and_is_sent_once(self) -> None:
        self.crash()
        self.comment()
        FollowUp.objects.create(what="Measure again", due=date.today() - timedelta(days=1), by=self.editor)
        self.assertEqual(mail_what_is_new(), 1)
        (letter,) = mail.outbox
        self.assertEqual(letter.to, ["editor@team.example"])
        self.assertEqual(letter.subject, "3 things wait for you")
        for words in ("the picture froze", "@editor please look", "Due: Measure again", "https://bench.example/inbox"):
            self.assertIn(words, letter.body)
        self.assertEqual(mail_what_is_new(), 0)

    def test_what_is_new_after_a_letter_comes_in_the_next_one_alone(self) -> None:
        self.crash()
        mail_what_is_new()
        self.comment()
        mail_what_is_new()
        self.assertIn("names you", mail.outbox[1].subject)
        self.assertNotIn("froze", mail.outbox[1].body)

    def test_who_wants_none_of_it_is_off_duty_or_has_no_address_gets_none(self) -> None:
        self.crash()
        for changes in ({"mail": []}, {"mail": ["named"]}, {"mail": ["failed"], "email": ""}):
            with self.subTest(changes):
                set_preferences(self.editor, **changes)
                self.assertEqual(mail_what_is_new(), 0)
        set_preferences(self.editor, email="editor@team.example")
        self.editor.is_active = False
        self.editor.save()
        self.assertEqual(mail_what_is_new(), 0)

    def test_what_completes_or_is_somebody_elses_is_no_news(self) -> None:
        self.fill(0, [60.0])
        other = self.scene.people["reader"]
        set_preferences(other, email="reader@team.example", mail=list(MAIL_KINDS))
        self.crash()
        mail_what_is_new()
        self.assertEqual([letter.to for letter in mail.outbox], [["editor@team.example"]])

    def test_a_docket_that_stops_is_told_to_who_waits_on_it(self) -> None:
        self.scene.owe(column=0)
        hold = mock.Mock(words="it runs at 18 W and not at 35 W")
        with mock.patch("nomothet.server.upkeep.mailing.hold_of", return_value=hold):
            mail_what_is_new()
        self.assertIn("has stopped: it runs at 18 W and not at 35 W", mail.outbox[0].body)

    def test_a_letter_that_does_not_go_out_is_tried_again(self) -> None:
        self.crash()
        with mock.patch("django.core.mail.EmailMessage.send", side_effect=OSError("no route")):
            self.assertEqual(mail_what_is_new(), 0)
        self.assertEqual(mail_what_is_new(), 1)

    def test_without_a_mail_server_nothing_is_looked_for(self) -> None:
        self.crash()
        with override_settings(EMAIL_HOST=""):
            self.assertEqual(mail_what_is_new(), 0)
            self.assertFalse(Browser("editor").json("/api/account/preferences")["mail_works"])

    def test_an_address_and_kinds_are_checked(self) -> None:
        editor = Browser("editor")
        for body in ({"email": "nobody"}, {"mail": ["weather"]}):
            self.problem(editor.send("patch", "/api/account/preferences", body), 400)
        told = editor.send("patch", "/api/account/preferences", {"mail": ["due"]}).json()
        self.assertEqual((told["email"], told["mail"], told["mail_works"]), ("editor@team.example", ["due"], True))

    def test_it_goes_through_a_server_that_speaks_smtp(self) -> None:
        self.crash()
        with (
            Sink() as sink,
            override_settings(
                EMAIL_BACKEND=_SMTP,
                EMAIL_HOST="127.0.0.1",
                EMAIL_PORT=sink.port,
                EMAIL_USE_TLS=False,
                EMAIL_USE_SSL=False,
            ),
        ):
            self.assertEqual(mail_what_is_new(), 1)
        (taken,) = sink.taken
        self.assertIn("To: editor@team.example", taken)
        self.assertIn("the picture froze", taken)


class Sink:
    """A mail server that takes everything, on loopback."""

    def __enter__(self) -> "Sink":
        self.taken: list[str] = []
        taken = self.taken

        class Handler(socketserver.StreamRequestHandler):
            def handle(self) -> None:
                self.wfile.write(b"220 sink\r\n")
                while line := self.rfile.readline().decode().strip().upper():
                    if line == "DATA":
                        self.wfile.write(b"354 go on\r\n")
                        lines = iter(lambda: self.rfile.readline().decode().rstrip("\r\n"), ".")
                        taken.append("\n".join(lines))
                    self.wfile.write(b"221 bye\r\n" if line == "QUIT" else b"250 well\r\n")

        self.server = socketserver.ThreadingTCPServer(("127.0.0.1", 0), Handler)
        self.port = self.server.server_address[1]
        self.thread = threading.Thread(target=self.server.serve_forever)
        self.thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self.server.shutdown()
        self.thread.join()
        self.server.server_close()
