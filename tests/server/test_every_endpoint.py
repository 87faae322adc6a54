"""Every operation of the API, tried as everybody who may speak to it: nobody gets further than they may."""

import json
import re
from collections import defaultdict
from http.cookies import SimpleCookie
from typing import Any

from django.db import connection, reset_queries, transaction
from django.http import HttpResponse
from django.test import Client
from django.test.utils import CaptureQueriesContext

from nomothet.server.people.models import Token, User
from nomothet.server.people.tokens import make_token
from tests.server.base import Browser, SceneTest
from tests.server.operations import Operation, body_of, operations
from tests.server.populated import Populated, populate
from tests.server.who_may import WHO_MAY

ROLES = ("reader", "tester", "editor", "admin")
# What an author signs, an editor signs.
_BODIES = {"POST /api/reviews/{review}/verdict/signatures": {"role": "second reader"}}
# Signing in with a wrong password is refused as such.
_CONFIRMING = {"POST /api/session"}
# What counts as having been let in: the request was looked at.
_REFUSED = (401, 403)
_FILE = '----cut\r\nContent-Disposition: form-data; name="file"; filename="a.csv"\r\n\r\na,b\r\n----cut--\r\n'
# Notes of who asked, which a refusal may leave.
_NOTES = re.compile(r"`(people_visit|people_token|people_securityevent|people_failures|systems_bench)`|SAVEPOINT")
# After these, what was made of evidence is made anew; who has found all in order goes by what is announced.
_OUT_OF_DATE = re.compile(
    r"UPDATE `(reviews_test` SET .*`stamp`|reviews_review` SET .*`version`|workloads_workload` SET .*`edit`) =", re.S
)
_ANNOUNCED = re.compile("INSERT INTO `feed_change`")


class Speaker:
    """Somebody or something that sends requests, with what it shows of itself."""

    def __init__(self, client: Client, **headers: str) -> None:
        self._client = client
        self._cookies = client.cookies.output(header="", sep=";")
        client.raise_request_exception = False
        self._headers = {**headers, "If-Match": "*"}

    def ask(self, operation: Operation, path: str, ids: dict[str, Any]) -> HttpResponse:
        """Send a body as the document says that it is taken; whoever signs out is signed in the next time."""
        self._client.cookies = SimpleCookie(self._cookies)
        method, takes = operation.method, operation.takes
        data, kind = json.dumps(_BODIES.get(operation.name) or body_of(operation, ids)), "application/json"
        if takes.startswith("multipart"):
            data, kind = _FILE, "multipart/form-data; boundary=--cut"
        elif takes == "application/octet-stream":
            data, kind, path = "x", takes, f"{path}?offset=0"
        if method == "get":
            return self._client.get(path, headers=self._headers)
        return self._client.generic(method.upper(), path, data, kind, headers=self._headers)


class EveryEndpoint(SceneTest):
    made: Populated

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.made = populate(cls.scene)

    @property
    def ids(self) -> dict[str, Any]:
        """What a body's numbers stand for; whoever is refused names nothing that is there."""
        values = self.made.values
        known = {key: value for key, value in values.items() if isinstance(value, int)}
        columns = dict.fromkeys(("like", "columns", "order"), values["column"])
        pictures = dict.fromkeys(("picture_a", "picture_b"), values["picture"])
        return {**known, **columns, **pictures, "test_a": values["test"], "test_b": values["test"]}

    def speakers(self) -> dict[str, Speaker]:
        """Everybody who may speak to the server, by what `WHO_MAY` calls them."""
        gone = User.objects.create_user("gone", password="x", display_name="Gone", role="admin")
        who = {role: _person(role) for role in ROLES} | {"stranger": _person(None), "disabled admin": _person("gone")}
        User.objects.filter(pk=gone.pk).update(is_active=False)
        admin = User.objects.get(username="admin")
        for name, scope in (("reading", "reading"), ("recording", "recording"), ("revoked", "recording")):
            token, secret = make_token(admin, None, name, scope)
            who[f"{name} token"] = Speaker(Client(), Authorization=f"Bearer {secret}")
            if name == "revoked":
                Token.objects.filter(pk=token.pk).update(revoked_at=token.made_at)
        who["bench"] = Speaker(Client(), Authorization=f"Bench {self.scene.token}")
        archived = self.made.archived_token
        who["bench of an archived system"] = Speaker(Client(), Authorization=f"Bench {archived}")
        return who

    def test_everything_is_declared_and_nothing_else(self) -> None:
        self.assertEqual(set(WHO_MAY), {operation.name for operation in operations()})

    def test_nobody_gets_further_than_they_may(self) -> None:
        who = self.speakers()
        surprises, unreached = [], defaultdict(set)
        for operation in operations():
            allowed = WHO_MAY[operation.name]
            for name, speaker in who.items():
                # Django keeps the last few thousand, and finds none of a request where there are more.
                reset_queries()
                with CaptureQueriesContext(connection) as queries:
                    status, told = self.sent(speaker, operation, self.ids if name in allowed else {})
                let_in = name in allowed
                wrote = [q["sql"] for q in queries if _writes(q["sql"])]
                if status >= 500:
                    surprises.append(f"{operation.name} as {name}: {status}")
                elif let_in and status in _REFUSED and operation.name not in _CONFIRMING:
                    surprises.append(f"{operation.name} as {name}: {status}, and may: {told}")
                elif not let_in and (status < 400 or wrote):
                    surprises.append(f"{operation.name} as {name}: {status}, and may not {wrote[:1]}")
                elif not let_in and status not in _REFUSED:
                    surprises.append(f"{operation.name} as {name}: {status} before it was refused {told}")
                elif (
                    let_in and any(map(_OUT_OF_DATE.search, wrote)) and not any("`feed_change`" in sql for sql in wrote)
                ):
                    surprises.append(f"{operation.name} as {name} tells nobody that results are out of date")
                if let_in:
                    unreached[operation.name].add(status)
        # A session of one's own is called by what the account page tells; its own tests have it.
        unreached.pop("DELETE /api/account/sessions/{visit}")
        nowhere = [name for name, statuses in unreached.items() if statuses == {404}]
        self.assertEqual(surprises, [], f"{len(surprises)} surprises:\n" + "\n".join(surprises))
        self.assertEqual(nowhere, [], "nothing is at these addresses")

    def sent(self, speaker: Speaker, operation: Operation, ids: dict[str, Any]) -> tuple[int, str]:
        """Send a request, of which nothing stays; gives the status and the beginning of what went wrong."""
        with transaction.atomic():
            answer = speaker.ask(operation, self.address(operation), ids)
            told = answer.getvalue() if answer.status_code >= 400 or answer.streaming else b""
            transaction.set_rollback(True)
        return answer.status_code, told[:150].decode(errors="replace")

    def address(self, operation: Operation) -> str:
        values = self.made.values
        own = {
            "/api/picture-pairs/{pair}": {"pair": values["picture_pair"]},
            "/api/settings/{key}": {"key": values["setting"]},
            "/api/marks/{mark}/back": {"mark": values["mark_off"]},
            "/api/pictures/{picture}/back": {"picture": values["picture_off"]},
        }.get(operation.path, {})
        return operation.path.format_map({"key": "power_limit", **values, **own})


def _person(username: str | None) -> Speaker:
    browser = Browser(username)
    return Speaker(browser.client, **{"X-CSRFToken": browser.client.cookies["csrftoken"].value})


def _writes(sql: str) -> bool:
    return bool(re.match(r"\s*(INSERT|UPDATE|DELETE|REPLACE)", sql)) and not _NOTES.search(sql)
