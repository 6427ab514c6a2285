"""The tests and repairs there are: how sure, how long, what has to be open (docs/faults.md)."""

from dataclasses import dataclass, field

from eldrim.core.operations import CautionCause

# Clear the codes, run it and read them again: what proves a repair, in minutes.
PROOF_MINUTES = 8.0
# What has to be open for an act, at its cylinder: nothing, what lies over it, the carrier of the
# spark off too, the plug out too; or all plugs.
NOTHING, OVER, CARRIER, PLUG, ALL_PLUGS = "", "over", "carrier", "plug", "all-plugs"


# What of a cylinder can change places, or be renewed, and so may be elsewhere by now.
COIL, PLUG_ITEM, INJECTOR, LEAD = "coil", "plug", "injector", "lead"


@dataclass(frozen=True)
class TestRow:
    """A test: the chance of yes by cause, and where it is none of them; own minutes.

    ``swaps`` is what changes places with that of another cylinder, which is opened too. ``causes``
    are the cautions it calls for, ``tool`` what it takes.
    """

    key: str
    yes: dict[str, float]
    otherwise: float
    minutes: float
    needs: str = NOTHING
    swaps: str = ""
    causes: tuple[CautionCause, ...] = field(default=())
    tool: str = ""

    @property
    def runs(self) -> bool:
        """Whether the engine runs at its end, with all on that it needs to run."""
        return CautionCause.RUN in self.causes


HIGH_VOLTAGE, CRANKING, FUEL, RUNNING = (
    CautionCause.SPARK,
    CautionCause.CRANK,
    CautionCause.FUEL,
    CautionCause.RUN,
)
_NO_SPARK = ("coil", "connector", "driver", "lead", "pair-coil", "main-coil", "tower")
TESTS: tuple[TestRow, ...] = (
    TestRow("swap-coil", {"coil": 0.95}, 0.03, 7, CARRIER, COIL, (RUNNING, HIGH_VOLTAGE)),
    TestRow("swap-plug", {"plug": 0.9}, 0.05, 8, PLUG, PLUG_ITEM, (RUNNING,)),
    TestRow("look-boot", {"boot": 0.85}, 0.05, 2, CARRIER),
    TestRow("wiggle", {"connector": 0.6}, 0.05, 4, OVER, causes=(RUNNING, HIGH_VOLTAGE)),
    TestRow(
        "measure-supply",
        {"connector": 0.9, "supply": 0.9},
        0.03,
        6,
        OVER,
        causes=(CRANKING,),
        tool="multimeter",
    ),
    TestRow(
        "spark-tester",
        dict.fromkeys(_NO_SPARK, 0.85),
        0.1,
        5,
        CARRIER,
        causes=(CRANKING, HIGH_VOLTAGE, FUEL),
        tool="spark-tester",
    ),
    TestRow(
        "coil-resistance",
        dict.fromkeys(("pair-coil", "main-coil"), 0.4),
        0.02,
        4,
        tool="multimeter",
    ),
    TestRow("lead-resistance", {"lead": 0.8}, 0.05, 3, CARRIER, tool="multimeter"),
    TestRow(
        "injector-heard",
        {"injector": 0.6, "injector-wiring": 0.6},
        0.1,
        3,
        causes=(RUNNING,),
        tool="stethoscope",
    ),
    TestRow("injector-swap", {"injector": 0.9}, 0.05, 30, OVER, INJECTOR, (FUEL, RUNNING)),
    TestRow(
        "compression",
        {"compression": 0.9, "engine": 0.9},
        0.05,
        12,
        PLUG,
        causes=(CRANKING, FUEL),
        tool="compression-gauge",
    ),
    TestRow("leak-spray", {"air-leak": 0.7}, 0.05, 6, causes=(RUNNING, FUEL), tool="leak-spray"),
    TestRow("ring", {"tower": 0.95}, 0.01, 4),
    TestRow("fuel-pressure", {"fuel": 0.85}, 0.05, 10, causes=(FUEL,), tool="fuel-gauge"),
    TestRow("compare-sensors", {"sensor": 0.8}, 0.1, 8, causes=(RUNNING,), tool="code-reader"),
    TestRow("back-pressure", {"exhaust": 0.85}, 0.05, 15, causes=(RUNNING,), tool="pressure-gauge"),
    TestRow("crank-signal", {"crank-signal": 0.85}, 0.05, 8, causes=(CRANKING,), tool="multimeter"),
)
TEST = {row.key: row for row in TESTS}


@dataclass(frozen=True)
class RepairRow:
    """A repair: the causes it cures, own minutes, what is bought for it."""

    key: str
    cures: tuple[str, ...]
    minutes: float
    parts: tuple[str, ...]
    needs: str = NOTHING

    @property
    def hands_over(self) -> bool:
        """Whether it is another's work: handed to the lead, not done on the spot."""
        return self.key.startswith("hand-")


REPAIRS: tuple[RepairRow, ...] = (
    RepairRow("renew-coil", ("coil",), 2, ("coil",), CARRIER),
    RepairRow("renew-plug", ("plug",), 2, ("plug",), PLUG),
    RepairRow("renew-boot", ("boot",), 2, ("boot",), CARRIER),
    RepairRow("renew-lead", ("lead",), 2, ("lead",), CARRIER),
    RepairRow("mend-connector", ("connector",), 9, ("connector",), OVER),
    RepairRow("renew-injector", ("injector",), 25, ("injector",), OVER),
    RepairRow("mend-injector-wiring", ("injector-wiring",), 12, ("injector-wiring",), OVER),
    RepairRow("hand-control-unit", ("driver",), 45, ("control-unit",)),
    RepairRow("hand-engine-cylinder", ("compression",), 90, ("engine-cylinder",), PLUG),
    RepairRow("renew-cap-rotor", ("tower",), 8, ("cap-rotor",)),
    RepairRow("renew-pack", ("pair-coil",), 10, ("pack",)),
    RepairRow("renew-main-coil", ("main-coil",), 8, ("main-coil",)),
    RepairRow("mend-mixture", ("mixture",), 25, ("mixture",)),
    RepairRow("mend-leak", ("air-leak",), 15, ("leak",)),
    RepairRow("mend-fuel", ("fuel",), 20, ("fuel",)),
    RepairRow("mend-supply", ("supply",), 15, ("supply",)),
    RepairRow("renew-sensor", ("sensor",), 12, ("sensor",)),
    RepairRow("mend-exhaust", ("exhaust",), 45, ("exhaust",)),
    RepairRow("mend-crank-signal", ("crank-signal",), 20, ("crank-signal",)),
    RepairRow("hand-engine", ("engine",), 120, ("engine",)),
    RepairRow("renew-plugs", ("plugs",), 8, ("plugs",), ALL_PLUGS),
    # What shares a dear way in, done together.
    RepairRow("renew-boot-and-plug", ("boot", "plug"), 4, ("boot", "plug"), PLUG),
    RepairRow("renew-coil-boot-plug", ("coil", "boot", "plug"), 6, ("coil", "boot", "plug"), PLUG),
    RepairRow("renew-lead-and-plug", ("lead", "plug"), 4, ("lead", "plug"), PLUG),
)
REPAIR = {row.key: row for row in REPAIRS}
