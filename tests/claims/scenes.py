"""Two reviews whose truth is written down here, for sentences to be held against."""

from nomothet.claims.facts import Configuration, Facts, Found, Level, MeasuredTest, Price, Statement, Value

W35, W28, W20, W15 = 1, 2, 3, 4
FLIGHT, KELP, REEF, LAMP = 11, 12, 13, 14


def _against_35(own: int, test: int | None, role: str, change: float, low: float, high: float, verdict: str,
                better: int = 1, unit: str = "%", unsettled: str = "",
                passes: int | None = None) -> Statement:  # fmt: skip
    return Statement(own, W35, test, role, change, low, high, verdict, better, unit, unsettled, passes)


_OVER_28 = _against_35(W28, None, "average", -1.9, -2.6, -1.2, "level")
_OVER_20 = _against_35(W20, None, "average", -9.1, -9.8, -8.3, "behind")
_OVER_15 = _against_35(W15, None, "average", -18.0, -19.0, -17.0, "behind")
_FLIGHT_LOW = _against_35(W28, FLIGHT, "low", 71.0, 49.0, 95.0, "ahead")
_FLIGHT_28 = _against_35(W28, FLIGHT, "average", -1.0, -1.9, -0.2, "level")
_FLIGHT_20 = _against_35(W20, FLIGHT, "average", -8.0, -9.0, -7.0, "behind")
_POWER_28 = _against_35(W28, LAMP, "power", -20.0, -21.0, -19.0, "ahead", -1)
_POWER_20 = _against_35(W20, LAMP, "power", -41.0, -42.0, -40.0, "ahead", -1)
_HEAT_28 = _against_35(W28, LAMP, "temperature", -9.0, -10.0, -8.0, "ahead", -1, "°C")
_NOISE_20 = _against_35(W20, LAMP, "noise", -6.0, -7.0, -5.0, "ahead", -1, "dB")
_KELP_LOW = _against_35(W28, KELP, "low", -2.0, -9.0, 6.0, "undecided", unsettled="undecided", passes=39)

DOME = Facts(
    configurations=(
        Configuration(W35, "35 W", "A", "Wren", is_baseline=True),
        Configuration(W28, "28 W", "B", "Wren"),
        Configuration(W20, "20 W", "C", "Wren"),
        Configuration(W15, "15 W", "D", "Wren"),
    ),
    tests=(
        MeasuredTest(FLIGHT, "Dome Atlas", ("4K", "orbit")),
        MeasuredTest(KELP, "Reef Walk 2", ("1440p", "kelp tunnel")),
        MeasuredTest(REEF, "Reef Walk 2", ("1440p", "open reef")),
        MeasuredTest(LAMP, "Lamp Test", ()),
    ),
    levels=(Level("power limit", "W", (15.0, 20.0, 28.0, 35.0)),),
    statements=(
        _OVER_28,
        _OVER_20,
        _OVER_15,
        _FLIGHT_LOW,
        _FLIGHT_28,
        _FLIGHT_20,
        _POWER_28,
        _POWER_20,
        _HEAT_28,
        _NOISE_20,
        _KELP_LOW,
        _against_35(W15, FLIGHT, "average", -17.0, -18.0, -16.0, "behind"),
        _against_35(W28, KELP, "average", -3.0, -4.1, -1.8, "undecided", unsettled="undecided", passes=9),
        _against_35(W20, KELP, "average", -10.2, -11.0, -9.4, "behind"),
        _against_35(W28, REEF, "average", -1.5, -2.2, -0.8, "level"),
        _against_35(W20, REEF, "average", -9.5, -10.2, -8.8, "behind"),
        _against_35(W20, FLIGHT, "low", 20.0, 8.0, 33.0, "ahead"),
        _against_35(W15, LAMP, "power", -49.0, -50.0, -48.0, "ahead", -1),
    ),
    values=(
        Value(W35, FLIGHT, "average", "fps", 61.4, 61.0, 61.8),
        Value(W28, FLIGHT, "average", "fps", 60.8, 60.4, 61.2),
        Value(W20, FLIGHT, "average", "fps", 56.5, 56.0, 57.0),
        Value(W35, LAMP, "power", "W", 48.0, 47.5, 48.5),
        Value(W28, LAMP, "power", "W", 38.4, 38.0, 38.8),
        Value(W20, LAMP, "power", "W", 28.3, 28.0, 28.6),
        Value(W35, LAMP, "temperature", "°C", 86.0, 85.5, 86.5),
        Value(W28, LAMP, "temperature", "°C", 77.0, 76.5, 77.5),
        Value(W20, LAMP, "noise", "dB", 29.0, 28.5, 29.5),
    ),
    findings=(
        Found(1, "over_all", (W28, W35), (FLIGHT, KELP, REEF, LAMP), "Over 4 tests, the averages of 28 W come to 98.1 "
              "% of 35 W, 97.4 to 98.8 %: level.", "−1.9 %", "level", statements=(_OVER_28,)),
        Found(2, "sweep", (W35, W28, W20, W15), (FLIGHT,), "In Dome Atlas, average frame rate: 28 W is enough, within "
              "the margin of the best, 35 W; 20 W may lose more than the margin.", "28 W", "enough",
              statements=(_FLIGHT_28, _FLIGHT_20), enough=(W28,)),
        Found(3, "burst", (W35,), (FLIGHT,), "In Dome Atlas, 35 W drops after 44 s by 9.0 %, by temperature.", "−9.0 %",
              "drops", texts=("drops after 44 s", "by temperature", "−9.0 %", "86 °C"),
              causes=("temperature", "heat", "hot", "clock")),
        Found(4, "pacing", (W28, W35), (FLIGHT,), "In Dome Atlas, the 1 % low of 28 W gains more than its average: "
              "+71.0 %.", "+71.0 %", "ahead", statements=(_FLIGHT_LOW, _FLIGHT_28)),
        Found(5, "over_all", (W20, W35), (FLIGHT, KELP, REEF, LAMP), "Over 4 tests, the averages of 20 W come to 90.9 "
              "% of 35 W, 90.2 to 91.7 %: behind.", "−9.1 %", "behind", statements=(_OVER_20,)),
        Found(6, "energy", (W35, W28, W20), (LAMP,), "In Lamp Test, 28 W draws 20.0 % less than 35 W, 20 W 41.0 % "
              "less.", "−20.0 %", "ahead", statements=(_POWER_28, _POWER_20), texts=("48.0 W", "38.4 W", "28.3 W")),
        Found(7, "not_settled", (W28, W35), (KELP,), "In Reef Walk 2, kelp tunnel, 1 % low, 28 W against 35 W is not "
              "settled.", "−2.0 %", "undecided", "undecided", 39, statements=(_KELP_LOW,)),
        Found(8, "versus", (W20, W35), (LAMP,), "20 W differs from 35 W in Lamp Test, fan noise: −6.0 dB.", "−6.0 dB",
              "ahead", statements=(_NOISE_20,)),
    ),
    elsewhere=frozenset({"Heron", "Cormorant", "Plover", "Kiln", "Loom", "Tidal Rally"}),
    explained=("The clock drops for heat at 35 W",),
)  # fmt: skip

HERON, WREN, CORMORANT, PLOVER = 1, 2, 3, 4
RALLY, KILN, LOOM = 21, 22, 23


def _against_heron(own: int, test: int | None, role: str, change: float, low: float, high: float, verdict: str,
                   better: int = 1, unsettled: str = "", passes: int | None = None) -> Statement:  # fmt: skip
    return Statement(own, HERON, test, role, change, low, high, verdict, better, "%", unsettled, passes)


_CORMORANT = _against_heron(CORMORANT, None, "average", 62.0, 55.0, 70.0, "ahead")
_WREN = _against_heron(WREN, None, "average", -34.0, -37.0, -31.0, "behind")
_RALLY = _against_heron(CORMORANT, RALLY, "average", 0.4, -0.8, 1.6, "level")
_KILN = _against_heron(CORMORANT, KILN, "time", -58.0, -59.5, -56.5, "ahead", -1)
_KILN_WREN = _against_heron(WREN, KILN, "time", 75.0, 70.0, 80.0, "behind", -1)
_LOOM = _against_heron(CORMORANT, LOOM, "score", 110.0, 102.0, 118.0, "ahead")
_LOOM_WREN = _against_heron(WREN, LOOM, "score", -21.0, -30.0, -12.0, "noise unknown", unsettled="noise unknown",
                            passes=2)  # fmt: skip

CABINET = Facts(
    configurations=(
        Configuration(HERON, "Heron", "A", "Heron", is_baseline=True),
        Configuration(WREN, "Wren", "B", "Wren"),
        Configuration(CORMORANT, "Cormorant", "C", "Cormorant"),
        Configuration(PLOVER, "Plover", "D", "Plover"),
    ),
    tests=(
        MeasuredTest(RALLY, "Tidal Rally", ("1080p", "cap 60")),
        MeasuredTest(KILN, "Kiln", ("still", "16 threads")),
        MeasuredTest(LOOM, "Loom", ("all threads",)),
    ),
    levels=(Level("threads", "threads", (16.0,)),),
    statements=(
        _CORMORANT,
        _WREN,
        _RALLY,
        _KILN,
        _KILN_WREN,
        _LOOM,
        _LOOM_WREN,
        _against_heron(WREN, RALLY, "average", -22.0, -23.5, -20.5, "behind"),
        Statement(CORMORANT, WREN, None, "average", 145.0, 130.0, 161.0, "ahead"),
        Statement(CORMORANT, WREN, KILN, "time", -76.0, -77.5, -74.5, "ahead", -1),
    ),
    values=(
        Value(HERON, RALLY, "average", "fps", 59.8, 59.5, 60.1),
        Value(WREN, RALLY, "average", "fps", 46.6, 46.0, 47.2),
        Value(CORMORANT, KILN, "time", "s", 52.0, 51.0, 53.0),
        Value(HERON, KILN, "time", "s", 124.0, 122.0, 126.0),
    ),
    findings=(
        Found(1, "over_all", (CORMORANT, HERON), (RALLY, KILN, LOOM), "Over 3 tests, the averages of Cormorant come to "
              "162 % of Heron, 155 to 170 %: ahead.", "+62.0 %", "ahead", statements=(_CORMORANT,)),
        Found(2, "over_all", (WREN, HERON), (RALLY, KILN, LOOM), "Over 3 tests, the averages of Wren come to 66.0 % of "
              "Heron, 63.0 to 69.0 %: behind.", "−34.0 %", "behind", statements=(_WREN,)),
        Found(3, "versus", (CORMORANT, HERON), (RALLY,), "Cormorant against Heron in Tidal Rally: level.", "+0.4 %",
              "level", statements=(_RALLY,)),
        Found(4, "versus", (CORMORANT, HERON), (KILN,), "Cormorant against Heron in Kiln, time: −58.0 %: ahead.",
              "−58.0 %", "ahead", statements=(_KILN,), texts=("52.0 s", "124 s")),
        Found(5, "frontier", (HERON, WREN, CORMORANT), (RALLY, KILN, LOOM), "On the value frontier stand Wren, Heron "
              "and Cormorant; from Wren to Heron each added percent costs 7.20 €.", "", "", texts=("410 €", "780 €",
              "2140 €", "7.20 €")),
        Found(6, "blind", (PLOVER,), (RALLY,), "Tidal Rally did not start on Plover.", "", ""),
        Found(7, "targets", (HERON, CORMORANT, WREN), (RALLY,), "Heron and Cormorant meet every target; Wren misses 1 "
              "of 1.", "", "", enough=(HERON, CORMORANT), texts=("60 fps", "46.6 fps")),
        Found(8, "not_settled", (WREN, HERON), (LOOM,), "Loom, score: Wren against Heron, noise unknown.", "−21.0 %",
              "noise unknown", "noise unknown", 2, statements=(_LOOM_WREN,)),
    ),
    prices=(Price(HERON, 780.0, "EUR"), Price(WREN, 410.0, "EUR"), Price(CORMORANT, 2140.0, "EUR")),
    elsewhere=frozenset({"Dome Atlas", "Reef Walk 2", "Lamp Test", "Visitor Lens"}),
)  # fmt: skip

SCENES = {"dome": DOME, "cabinet": CABINET}
