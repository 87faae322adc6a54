"""How fast a full plan is: 20 configurations × 60 tests × 5 passes, its differences, its check and its order of work.

Run it beside ./start: .venv/bin/python measure/planning.py. It makes a review in the running installation,
times the API against a bare answer of the same server, and deletes the review again.
"""

import statistics
import sys
import time
from pathlib import Path

import httpx

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "scripts"))
from signed_in import session_of

CONFIGURATIONS, TESTS, PASSES = 20, 60, 5
_TIMES = 9


def main() -> int:
    address = sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8420"
    with httpx.Client(base_url=address, timeout=120, cookies=session_of("desk")) as client:
        client.get("/api/session")
        review, system, configurations = build(client)
        try:
            report(client, review, system)
        finally:
            clear(client, review, system, configurations)
    return 0


def send(client: httpx.Client, method: str, path: str, body: object = None) -> dict:
    answer = client.request(method, path, json=body, headers={"X-CSRFToken": client.cookies["csrftoken"]})
    if answer.is_error:
        raise SystemExit(f"{method} {path}: {answer.text}")
    return answer.json() if answer.content else {}


def build(client: httpx.Client) -> tuple[int, int, list[int]]:
    """A review of four kits × five power limits, with three more settings that differ here and there."""
    key = f"measured-{int(time.time())}"
    slots = [{"name": name, "channel": name[0], "fill": at + 1} for at, name in enumerate(("A2", "B2", "A1", "B1"))]
    system = send(client, "POST", "/api/systems", {"key": key, "name": key})
    edit = {"slot_map": {"slots": slots}, "changes_by": "tester"}
    client.patch(
        f"/api/systems/{system['id']}",
        json=edit,
        headers={"X-CSRFToken": client.cookies["csrftoken"], "If-Match": '"v1"'},
    ).raise_for_status()
    kits = [part for part in client.get("/api/parts").json() if part["kind"] == "memory_kit"]
    kits = [kit for kit in kits if any(a["key"] == "modules" and a["value"] >= 2 for a in kit["attributes"])]
    review = send(client, "POST", "/api/reviews", {"question": f"What is measured by {key}?"})["id"]
    configurations: list[int] = []
    for at in range(CONFIGURATIONS):
        kit = kits[at % len(kits)]["id"]
        build = {
            "name": f"{key} {at}",
            "base": configurations[0] if configurations else None,
            "settings": {"power_limit_w": 20 + 5 * (at % 5), "fan_profile": at % 3, "image": 40 + at % 2},
            "fitted": {"slot A2": {"part": kit, "module": 1}, "slot B2": {"part": kit, "module": 2}},
        }
        made = send(client, "POST", f"/api/systems/{system['id']}/configurations", build)["id"]
        configurations.append(made)
        send(client, "POST", f"/api/reviews/{review}/columns", {"configuration": made})
    workload = next(one for one in client.get("/api/workloads").json() if one["key"] == "lantern-room")
    seconds = list(range(1, TESTS + 1))
    choices = {"size": ["160x90"], "detail": [3], "seconds": seconds}
    send(client, "POST", f"/api/reviews/{review}/tests", {"workload": workload["id"], "choices": choices})
    shape = client.get(f"/api/reviews/{review}").json()
    asked = {
        "tests": [test["id"] for test in shape["tests"]],
        "columns": [column["id"] for column in shape["columns"]],
        "passes": PASSES,
    }
    send(client, "POST", f"/api/reviews/{review}/docket", asked)
    return review, system["id"], configurations


def report(client: httpx.Client, review: int, system: int) -> None:
    bare = timed(client, "/health")
    print(f"reference: a bare answer with one query takes {1000 * bare:.1f} ms")
    for name, path in (
        ("review with its difference table", f"/api/reviews/{review}"),
        ("plan check and cost", f"/api/reviews/{review}/plan"),
        (f"docket of {CONFIGURATIONS * TESTS * PASSES:,} passes", f"/api/systems/{system}/docket"),
    ):
        taken = timed(client, path)
        print(f"{name}: {1000 * taken:.0f} ms, {taken / bare:.0f} × the reference")
    docket = client.get(f"/api/systems/{system}/docket").json()
    print(f"openings {docket['openings']}, the fewest possible {docket['fewest_openings']}, exact {docket['exact']}")


def timed(client: httpx.Client, path: str) -> float:
    """The median of several answers, after one that warms up."""
    client.get(path).raise_for_status()
    taken = []
    for _ in range(_TIMES):
        began = time.perf_counter()
        client.get(path).raise_for_status()
        taken.append(time.perf_counter() - began)
    return statistics.median(taken)


def clear(client: httpx.Client, review: int, system: int, configurations: list[int]) -> None:
    send(client, "DELETE", f"/api/reviews/{review}")
    for configuration in reversed(configurations):
        send(client, "DELETE", f"/api/configurations/{configuration}")
    send(client, "PUT", f"/api/systems/{system}/archived")


if __name__ == "__main__":
    sys.exit(main())
