"""Who may do what: every operation of the API, declared by hand and held against the server by test_every_endpoint.

`anybody` is let in without signing in. `read` is for everybody who may sign in, and for scripts. The roles are for
people at a browser (a signature is taken back by who gave it, here the editor, or by an admin); with `+script` a token
for recording may too, as far as its owner may. `bench` is a bench's own.
"""

_PEOPLE = ("reader", "tester", "editor", "admin")
_EVERYBODY = (
    "stranger", *_PEOPLE, "disabled admin", "reading token", "recording token", "revoked token", "bench",
    "bench of an archived system",
)  # fmt: skip
_GROUPS = {
    "anybody": _EVERYBODY,
    "read": (*_PEOPLE, "reading token", "recording token"),
    "admin-read": ("admin", "reading token", "recording token"),
    "bench": ("bench",),
    # Whoever shows a token is told when it is none.
    "known": tuple(one for one in _EVERYBODY if one != "revoked token"),
}

_TABLE = """
/api/account                                                    GET=reader
/api/account/calendar                                           GET=reader POST=reader DELETE=reader
/api/account/data                                               GET=reader
/api/account/preferences                                        GET=reader PATCH=reader
/api/account/password                                           PUT=reader
/api/account/recovery-codes                                     POST=reader
/api/account/second-factor                                      POST=reader PUT=reader DELETE=reader
/api/account/sessions                                           DELETE=reader
/api/account/sessions/{visit}                                   DELETE=reader
/api/account/told                                               PUT=reader
/api/bench/docket/{entry}/progress                              POST=bench
/api/bench/hello                                                POST=bench
/api/bench/next                                                 POST=bench
/api/bench/passes/{pass_id}                                     PUT=bench
/api/bench/passes/{pass_id}/finish                              POST=bench
/api/bench/passes/{pass_id}/series/{name}                       PUT=bench
/api/benches                                                    GET=read
/api/bundles                                                    GET=read POST=tester
/api/bundles/{bundle}                                           DELETE=tester
/api/captures/{series}.csv                                      GET=read
/api/catalogue                                                  GET=read
/api/changeovers/{changeover}                                   DELETE=tester
/api/changeovers/{changeover}/ticks                             PUT=tester
/api/changeovers/{changeover}/ticks/{key}                       DELETE=tester
/api/column-maps                                                GET=read POST=tester
/api/comments/{comment}                                         PATCH=reader
/api/comments/{comment}/closed                                  PUT=reader DELETE=reader
/api/configurations/{configuration}                             PATCH=tester DELETE=tester
/api/configurations/{configuration}/archived                    PUT=tester DELETE=tester
/api/configurations/{configuration}/copy                        POST=tester
/api/configurations/{configuration}/observations                POST=tester
/api/docket/{entry}                                             DELETE=tester
/api/docket/{entry}/hand                                        GET=read POST=tester DELETE=tester
/api/docket/{entry}/hand/clock                                  PUT=tester
/api/docket/{entry}/hand/end                                    POST=tester
/api/docket/{entry}/hand/ticks                                  PUT=tester
/api/docket/{entry}/hand/ticks/{key}                            DELETE=tester
/api/docket/{entry}/live                                        GET=read
/api/docket/{entry}/marks                                       GET=read POST=tester
/api/docket/{entry}/search                                      GET=read POST=tester
/api/docket/{entry}/search/attempts                             POST=tester
/api/docket/{entry}/search/attempts/{position}                  DELETE=tester
/api/docket/{entry}/search/end                                  POST=tester
/api/doubts/{doubt}                                             DELETE=tester
/api/drawn-findings/{drawn}                                     DELETE=editor
/api/follow-ups                                                 GET=read POST=tester
/api/follow-ups/people                                          GET=read
/api/follow-ups/{follow_up}                                     PATCH=tester
/api/follow-ups/{follow_up}/here                                PUT=tester DELETE=tester
/api/follow-ups/{follow_up}/passes                              POST=tester
/api/follow-ups/{follow_up}/review                              POST=editor
/api/follow-ups/{follow_up}/state                               PUT=tester
/api/foreign                                                    GET=read POST=editor
/api/foreign/{record}                                           DELETE=editor
/api/history/{kind}/{object_id}                                 GET=read
/api/hypotheses/{hypothesis}                                    PATCH=editor
/api/hypotheses/{hypothesis}/docket                             POST=tester
/api/inbox                                                      GET=read PUT=reader
/api/installation                                               GET=admin-read
/api/ladders/{ladder}                                           DELETE=editor
/api/ladders/{ladder}/descent                                   POST=tester DELETE=tester
/api/marks/{mark}                                               POST=tester DELETE=tester
/api/marks/{mark}/back                                          PUT=tester
/api/messages                                                   GET=read
/api/messages/{message}/answer                                  PUT=editor
/api/messages/{message}/decision                                PUT=editor
/api/messages/{message}/follow-up                               POST=editor
/api/metric-notes/{metric}                                      PUT=editor
/api/metrics                                                    GET=admin-read
/api/pairs/{pair}                                               PATCH=editor DELETE=editor
/api/parts                                                      GET=read POST=tester
/api/parts.{form}                                               GET=read
/api/parts/{part}                                               GET=read PATCH=tester DELETE=tester
/api/parts/{part}/archived                                      PUT=tester DELETE=tester
/api/parts/{part}/copy                                          POST=tester
/api/parts/{part}/prices                                        POST=tester
/api/parts/import                                               POST=tester
/api/parts/pasted                                               POST=tester
/api/passes/{pass_id}/distribution                              GET=read
/api/passes/{pass_id}/doubts                                    POST=tester
/api/passes/{pass_id}/figures/{metric}                          PUT=tester
/api/passes/{pass_id}/first-run                                 PUT=tester DELETE=tester
/api/passes/{pass_id}/marks                                     POST=tester
/api/passes/{pass_id}/match/{other}                             GET=read
/api/passes/{pass_id}/pictures                                  POST=tester
/api/passes/{pass_id}/ranges                                    POST=tester
/api/passes/{pass_id}/read-again                                POST=tester
/api/passes/{pass_id}/search                                    GET=read POST=tester
/api/passes/{pass_id}/set-aside                                 PUT=tester DELETE=tester
/api/passes/{pass_id}/telling                                   PATCH=tester
/api/passes/{pass_id}/trace                                     GET=read
/api/passes/{pass_id}/unlike/{other}                            GET=read
/api/people                                                     GET=admin POST=admin
/api/people/{person}                                            PATCH=admin
/api/people/{person}/data                                       GET=admin DELETE=admin
/api/people/{person}/reset                                      POST=admin
/api/people/{person}/sessions                                   DELETE=admin
/api/picture-pairs/{pair}                                       DELETE=editor
/api/pictures/{picture}                                         GET=read DELETE=tester
/api/pictures/{picture}/back                                    PUT=tester
/api/pins/{pin}                                                 DELETE=editor
/api/pins/{pin}/seen                                            PUT=tester
/api/prices/{price}                                             DELETE=tester
/api/ranges/{kept}                                              DELETE=tester
/api/records/{slug}                                             GET=anybody
/api/records/{slug}/captures/{series}.csv                       GET=anybody
/api/records/{slug}/comparisons.csv                             GET=anybody
/api/records/{slug}/figures.csv                                 GET=anybody
/api/records/{slug}/pictures/{picture}                          GET=anybody
/api/records/{slug}/traces/{pass_id}                            GET=anybody
/api/records/{slug}/withdrawn                                   PUT=editor
/api/replies/{reply}                                            DELETE=editor
/api/reviews                                                    GET=read POST=editor
/api/reviews/{review}                                           GET=read PATCH=editor DELETE=editor
/api/reviews/{review}/archived                                  PUT=editor DELETE=editor
/api/reviews/{review}/baseline/{column}                         PUT=editor
/api/reviews/{review}/caveats                                   PUT=editor
/api/reviews/{review}/caveats/{aspect}                          DELETE=editor
/api/reviews/{review}/columns                                   POST=editor PUT=editor
/api/reviews/{review}/columns/{column}                          PATCH=editor DELETE=editor
/api/reviews/{review}/combination                               POST=editor
/api/reviews/{review}/comparisons.csv                           GET=read
/api/reviews/{review}/completeness                              GET=read
/api/reviews/{review}/copy                                      POST=editor
/api/reviews/{review}/docket                                    GET=read POST=tester
/api/reviews/{review}/enough                                    GET=read
/api/reviews/{review}/equal                                     POST=editor
/api/reviews/{review}/export/{what}.{form}                      GET=read
/api/reviews/{review}/factors                                   POST=editor PUT=editor
/api/reviews/{review}/factors/{key}                             DELETE=editor
/api/reviews/{review}/figures.csv                               GET=read
/api/reviews/{review}/findings                                  GET=read
/api/reviews/{review}/findings/{key}.csv                        GET=read
/api/reviews/{review}/findings/drawn                            POST=editor
/api/reviews/{review}/findings/owed                             POST=tester
/api/reviews/{review}/fitted                                    PUT=editor
/api/reviews/{review}/hypotheses                                GET=read POST=editor
/api/reviews/{review}/imports/{job}                             GET=read PUT=tester PATCH=tester DELETE=tester
/api/reviews/{review}/imports/{job}/start                       POST=tester
/api/reviews/{review}/ladders                                   GET=read POST=editor
/api/reviews/{review}/looking                                   PUT=reader
/api/reviews/{review}/since                                     GET=read DELETE=reader
/api/reviews/{review}/matrix                                    GET=read
/api/reviews/{review}/splits                                    GET=read
/api/reviews/{review}/splits/{column}                           PUT=editor
/api/reviews/{review}/copied                                    GET=read
/api/reviews/{review}/references                                GET=read POST=editor
/api/reviews/{review}/reference-offers                          GET=read
/api/references/{reference}/taken-off                           PUT=editor DELETE=editor
/api/reviews/{review}/measured-before                           GET=read POST=editor
/api/reviews/{review}/metric-notes                              GET=read
/api/reviews/{review}/metrics                                   POST=editor
/api/reviews/{review}/metrics/{key}                             DELETE=editor
/api/reviews/{review}/pairs                                     GET=read POST=editor
/api/reviews/{review}/paste                                     POST=editor
/api/reviews/{review}/pasted                                    POST=tester
/api/reviews/{review}/pictures                                  GET=read POST=editor
/api/reviews/{review}/pins                                      POST=editor PUT=editor
/api/reviews/{review}/plan                                      GET=read
/api/reviews/{review}/raw-files                                 GET=read
/api/reviews/{review}/recorder                                  GET=read POST=tester
/api/reviews/{review}/records                                   POST=editor
/api/reviews/{review}/sensors                                   GET=read
/api/reviews/{review}/specified                                 GET=read
/api/reviews/{review}/talk                                      GET=read POST=reader
/api/reviews/{review}/talk/seen                                 PUT=reader
/api/reviews/{review}/tests                                     POST=editor PUT=editor
/api/reviews/{review}/tests/{test}                              PATCH=editor DELETE=editor
/api/reviews/{review}/tests/{test}/columns/{column}             GET=read
/api/reviews/{review}/tests/{test}/columns/{column}/frames/{pass_id} PUT=tester
/api/reviews/{review}/tests/{test}/columns/{column}/looks       PUT=tester
/api/reviews/{review}/tests/{test}/copy                         POST=editor
/api/reviews/{review}/tests/{test}/readings/{metric}            PUT=tester
/api/reviews/{review}/tests/shown                               PUT=editor
/api/reviews/{review}/tests/table                               POST=editor
/api/reviews/{review}/typed                                     POST=tester
/api/reviews/{review}/typed/{batch}                             PUT=tester+script DELETE=tester+script
/api/reviews/{review}/verdict                                   GET=read PATCH=editor
/api/reviews/{review}/verdict/check                             POST=editor
/api/reviews/{review}/verdict/points/{key}                      PUT=editor DELETE=editor
/api/reviews/{review}/verdict/replies                           POST=editor
/api/reviews/{review}/verdict/revisions                         GET=read
/api/reviews/{review}/verdict/signatures                        POST=tester
/api/security-log                                               GET=admin
/api/security-log.csv                                           GET=admin
/api/session                                                    GET=known POST=known DELETE=known
/api/settings                                                   GET=read POST=tester
/api/settings/{key}                                             DELETE=tester
/api/signatures/{signature}                                     DELETE=editor
/api/systems/{system}/book                                      GET=read
/api/systems/{system}/watch-items                               GET=read POST=tester
/api/reviews/{review}/watch-items                               GET=read
/api/watch-items/{watch_item}/watched                           PUT=tester DELETE=tester
/api/saved-standings                                            GET=read POST=tester
/api/saved-standings/{saved}                                    DELETE=tester
/api/saved-standings/{saved}/published                          PUT=editor
/api/saved-standings/{saved}/withdrawn                          PUT=editor
/api/find                                                       GET=read
/api/first-review                                               GET=read POST=editor
/api/test-sets                                                  GET=read POST=editor
/api/test-sets/{test_set}                                       GET=read PATCH=editor
/api/test-sets/{test_set}/results.csv                           GET=read
/api/test-sets/{test_set}/archive                               PUT=editor DELETE=editor
/api/test-sets/{test_set}/review                                POST=editor
/api/standings                                                  GET=read
/api/standings/{workload_key}                                            GET=read
/api/standings/{workload_key}/results.csv                       GET=read
/api/standings/{workload_key}/facts                                      GET=read
/api/standings/{workload_key}/over-time                                  GET=read
/api/systems                                                    GET=read POST=editor
/api/systems/{system}                                           GET=read PATCH=tester
/api/systems/{system}/archived                                  PUT=tester DELETE=tester
/api/systems/{system}/bench-token                               POST=admin
/api/systems/{system}/changeovers                               POST=tester
/api/systems/{system}/configurations                            POST=tester
/api/systems/{system}/docket                                    GET=read PUT=tester
/api/systems/{system}/inventory-parts                           POST=tester
/api/systems/{system}/log                                       GET=read
/api/systems/{system}/populate                                  POST=reader
/api/systems/{system}/releases                                  POST=tester
/api/systems/{system}/send-again                                POST=tester
/api/team                                                       GET=read PUT=admin
/api/tokens                                                     GET=reader POST=reader
/api/tokens/{token}                                             DELETE=reader
/api/beginning                                                  POST=anybody PUT=anybody
/api/welcome                                                    POST=anybody PUT=anybody
/api/workloads                                                  GET=read POST=editor
/api/workloads.{form}                                           GET=read
/api/workloads/{workload}                                       PATCH=editor DELETE=editor
/api/workloads/{workload}/approvals/{system}                    PUT=admin DELETE=admin
/api/workloads/{workload}/archived                              PUT=editor DELETE=editor
/api/workloads/{workload}/editions                              POST=editor
/api/workloads/{workload}/untrusted/{metric}                    PUT=editor DELETE=editor
/api/workloads/fitness                                          GET=read
/api/workloads/import                                           POST=editor
/api/workloads/try-rule                                         POST=editor
"""


def _allowed(group: str) -> frozenset[str]:
    if group in _GROUPS:
        return frozenset(_GROUPS[group])
    role, _, scripts = group.partition("+")
    return frozenset(_PEOPLE[_PEOPLE.index(role) :]) | ({"recording token"} if scripts else set())


WHO_MAY = {
    f"{method} {path}": _allowed(group)
    for path, *told in map(str.split, _TABLE.strip().splitlines())
    for method, _, group in (one.partition("=") for one in told)
}
