"""Who may set up: every write of shelf, systems, workloads, briefs and dockets asks for its role."""

from tests.server.base import Browser
from tests.server.setting_up import SettingUp

ORDER = ("reader", "tester", "editor", "admin")


class Roles(SettingUp):
    def acts(self) -> list[tuple[str, str, str, object, str]]:
        """Method, path, lowest role, body, ETag; each possible once the ones before it are done."""
        scene, part, heron = self.scene, self.small.pk, self.heron.pk
        review = f"/api/reviews/{scene.review.pk}"
        first, second = (column.pk for column in scene.columns)
        test, workload = scene.tests[1].pk, scene.scene.pk
        price = {"amount": "1", "currency": "EUR", "on": "2026-01-01", "basis": "paid"}
        factor = {"key": "place", "name": "place", "aspects": [], "levels": ["hall"]}
        levels = {str(pk): {"place": "hall"} for pk in (first, second)}
        new_workload = {"key": "kiln", "name": "Kiln", "version": "1", "kind": "task"}
        return [
            ("post", "/api/parts", "tester", {"kind": "display", "name": "wall"}, ""),
            ("patch", f"/api/parts/{part}", "tester", {"note": "n"}, '"v1"'),
            ("post", f"/api/parts/{part}/copy", "tester", None, ""),
            ("put", f"/api/parts/{part}/archived", "tester", None, ""),
            ("delete", f"/api/parts/{part}/archived", "tester", None, ""),
            ("post", f"/api/parts/{part}/prices", "tester", price, ""),
            ("post", "/api/parts/import", "tester", {"text": "[]"}, ""),
            ("post", "/api/parts/pasted", "tester", {"kind": "storage", "text": "name\nslab", "store": True}, ""),
            ("post", "/api/settings", "tester",
             {"label": "Game mode", "kind": "yes_no", "touches": "system", "made_in": "system"}, ""),
            ("delete", "/api/settings/own.system.system.Game mode", "tester", None, ""),
            ("post", "/api/bundles", "tester", {"family": "f", "name": "n", "settings": {"fan_profile": 2}}, ""),
            ("patch", f"/api/systems/{heron}", "tester", {"description": "d"}, '"v1"'),
            ("put", f"/api/systems/{heron}/archived", "tester", None, ""),
            ("delete", f"/api/systems/{heron}/archived", "tester", None, ""),
            ("post", f"/api/systems/{heron}/inventory-parts", "tester", None, ""),
            ("post", f"/api/systems/{heron}/configurations", "tester", {"name": "third"}, ""),
            ("patch", f"/api/configurations/{self.other.pk}", "tester", {"note": "n"}, '"v1"'),
            ("post", f"/api/configurations/{self.other.pk}/copy", "tester", None, ""),
            ("put", f"/api/configurations/{self.other.pk}/archived", "tester", None, ""),
            ("delete", f"/api/configurations/{self.other.pk}/archived", "tester", None, ""),
            ("post", f"/api/configurations/{self.base.pk}/observations", "tester",
             {"key": "memory_mts", "value": 4800}, ""),
            ("put", f"/api/systems/{heron}/docket", "tester", {"mode": "balanced"}, ""),
            ("post", f"/api/systems/{heron}/releases", "tester",
             {"configuration": self.base.pk, "key": "memory_mts", "observed": 1, "words": "w"}, ""),
            ("post", "/api/workloads", "editor", new_workload, ""),
            ("patch", f"/api/workloads/{workload}", "editor", {"files": "f"}, '"v1"'),
            ("post", f"/api/workloads/{workload}/editions", "editor", {"version": "9"}, ""),
            ("put", f"/api/workloads/{workload}/archived", "editor", None, ""),
            ("delete", f"/api/workloads/{workload}/archived", "editor", None, ""),
            ("post", "/api/workloads/import", "editor", {"text": "[]"}, ""),
            ("post", "/api/reviews", "editor", {"question": "Why?"}, ""),
            ("post", f"{review}/copy", "editor", None, ""),
            ("put", f"{review}/archived", "editor", None, ""),
            ("delete", f"{review}/archived", "editor", None, ""),
            ("post", f"{review}/columns", "editor", {"configuration": self.base.pk}, ""),
            ("patch", f"{review}/columns/{first}", "editor", {"label": "l"}, "*"),
            ("patch", f"{review}/tests/{test}", "editor", {"skip_s": 1}, "*"),
            ("put", f"{review}/caveats", "editor", {"aspect": "fan_profile", "words": "w"}, ""),
            ("delete", f"{review}/caveats/fan_profile", "editor", None, ""),
            ("post", f"{review}/equal", "editor", {"setting": "fan_profile", "like": first}, ""),
            ("post", f"{review}/paste", "editor", {"text": "\t20 W\nfan profile\t4", "store": True}, ""),
            ("delete", f"{review}/factors/power_limit", "editor", None, ""),
            ("post", f"{review}/factors", "editor", {"aspects": ["power_limit_w"]}, ""),
            ("delete", f"{review}/tests/{test}", "editor", None, ""),
            ("post", f"{review}/tests", "editor", {"workload": scene.suite.pk, "choices": {}}, ""),
            ("delete", f"{review}/columns/{first}", "editor", None, ""),
            ("put", f"{review}/columns", "editor", None, ""),
            ("put", f"{review}/factors", "editor", {"factors": [factor], "levels": levels}, "*"),
        ]  # fmt: skip

    def test_every_write_needs_its_role_and_no_more(self) -> None:
        self.bench.send("post", "/hello", {"inventory": {}})
        browsers = {role: Browser(role) for role in ORDER}
        for method, path, lowest, body, tag in self.acts():
            if path.endswith(("/columns", "/factors")) and method == "put":
                order = [column.pk for column in self.scene.review.columns.all()]
                places = {str(pk): {"place": "hall"} for pk in order}
                body = {"order": order} if path.endswith("/columns") else {**dict(body or {}), "levels": places}  # type: ignore[call-overload]
            headers = {"If-Match": tag} if tag else {}
            with self.subTest(path=path, method=method):
                self.problem(Browser().send(method, path, body, **headers), 401)
                for role in ORDER[: ORDER.index(lowest)]:
                    problem = self.problem(browsers[role].send(method, path, body, **headers), 403)
                    self.assertIn(f"the role {lowest} is needed", problem["detail"])
                answer = browsers[lowest].send(method, path, body, **headers)
                self.assertLess(answer.status_code, 300, answer.content)
