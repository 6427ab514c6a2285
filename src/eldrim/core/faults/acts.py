"""The tests and repairs there are: how sure, how long, what has to be open (docs/faults.md)."""

from dataclasses import dataclass, field

# Clear the codes, run it and read them again: what proves a repair, in minutes.
PROOF_MINUTES = 8.0
# What has to be open for an act, at its cylinder: nothing, what lies over it, the carrier of the
# spark off too, the plug out too; or all plugs.
NOTHING, OVER, CARRIER, PLUG, ALL_PLUGS = "", "over", "carrier", "plug", "all-plugs"


@dataclass(frozen=True)
class TestRow:
    """A test: the chance of yes by cause, and where it is none of them; own minutes.

    ``partner`` is open at another cylinder too: what is changed over.
    """

    key: str
    yes: dict[str, float]
    otherwise: float
    minutes: float
    needs: str = NOTHING
    partner: bool = False
    cautions: tuple[str, ...] = field(default=())


HIGH_VOLTAGE, CRANKING, FUEL, RUNNING = "high-voltage", "cranking", "fuel", "running"
TESTS: tuple[TestRow, ...] = (
    TestRow("swap-coil", {"coil": 0.95}, 0.03, 7, CARRIER, True, (RUNNING, HIGH_VOLTAGE)),
    TestRow("swap-plug", {"plug": 0.9}, 0.05, 8, PLUG, True, (RUNNING,)),
    TestRow("look-boot", {"boot": 0.85}, 0.05, 2, CARRIER),
    TestRow("wiggle", {"connector": 0.6}, 0.05, 4, OVER, cautions=(RUNNING, HIGH_VOLTAGE)),
    TestRow("measure-supply", {"connector": 0.9, "supply": 0.9}, 0.03, 6, OVER),
    TestRow(
        "spark-tester",
        {
            "coil": 0.85,
            "connector": 0.85,
            "driver": 0.85,
            "lead": 0.85,
            "pair-coil": 0.85,
            "main-coil": 0.85,
            "tower": 0.85,
        },
        0.1,
        5,
        CARRIER,
        cautions=(CRANKING, HIGH_VOLTAGE, FUEL),
    ),
    TestRow("lead-resistance", {"lead": 0.8}, 0.05, 3, CARRIER),
    TestRow(
        "injector-heard", {"injector": 0.6, "injector-wiring": 0.6}, 0.1, 3, cautions=(RUNNING,)
    ),
    TestRow("injector-swap", {"injector": 0.9}, 0.05, 30, OVER, cautions=(FUEL,)),
    TestRow(
        "compression",
        {"compression": 0.9, "engine": 0.9},
        0.05,
        12,
        PLUG,
        cautions=(CRANKING, FUEL),
    ),
    TestRow("leak-spray", {"air-leak": 0.7}, 0.05, 6, cautions=(RUNNING, FUEL)),
    TestRow("ring", {"tower": 0.95}, 0.01, 4),
    TestRow("fuel-pressure", {"fuel": 0.85}, 0.05, 10, cautions=(FUEL,)),
    TestRow("compare-sensors", {"sensor": 0.8}, 0.1, 8, cautions=(RUNNING,)),
    TestRow("back-pressure", {"exhaust": 0.85}, 0.05, 15, cautions=(RUNNING,)),
    TestRow("crank-signal", {"crank-signal": 0.85}, 0.05, 8, cautions=(CRANKING,)),
)


@dataclass(frozen=True)
class RepairRow:
    """A repair: the causes it cures, own minutes, the price of its parts as minutes."""

    key: str
    cures: tuple[str, ...]
    minutes: float
    part_minutes: float
    needs: str = NOTHING


REPAIRS: tuple[RepairRow, ...] = (
    RepairRow("renew-coil", ("coil",), 2, 20, CARRIER),
    RepairRow("renew-plug", ("plug",), 2, 6, PLUG),
    RepairRow("renew-boot", ("boot",), 2, 5, CARRIER),
    RepairRow("renew-lead", ("lead",), 2, 8, CARRIER),
    RepairRow("mend-connector", ("connector",), 9, 3, OVER),
    RepairRow("renew-injector", ("injector",), 25, 40, OVER),
    RepairRow("mend-injector-wiring", ("injector-wiring",), 12, 3, OVER),
    RepairRow("hand-control-unit", ("driver",), 45, 90),
    RepairRow("hand-engine-cylinder", ("compression",), 90, 60, PLUG),
    RepairRow("renew-cap-rotor", ("tower",), 8, 15),
    RepairRow("renew-pack", ("pair-coil",), 10, 30),
    RepairRow("renew-main-coil", ("main-coil",), 8, 20),
    RepairRow("mend-mixture", ("mixture",), 25, 5),
    RepairRow("mend-leak", ("air-leak",), 15, 4),
    RepairRow("mend-fuel", ("fuel",), 20, 10),
    RepairRow("mend-supply", ("supply",), 15, 3),
    RepairRow("renew-sensor", ("sensor",), 12, 30),
    RepairRow("mend-exhaust", ("exhaust",), 45, 30),
    RepairRow("mend-crank-signal", ("crank-signal",), 20, 20),
    RepairRow("hand-engine", ("engine",), 120, 60),
    RepairRow("renew-plugs", ("plugs",), 8, 24, ALL_PLUGS),
    # What shares a dear way in, done together.
    RepairRow("renew-boot-and-plug", ("boot", "plug"), 4, 11, PLUG),
    RepairRow("renew-coil-boot-plug", ("coil", "boot", "plug"), 6, 31, PLUG),
    RepairRow("renew-lead-and-plug", ("lead", "plug"), 4, 14, PLUG),
)
