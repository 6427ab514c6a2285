"""Where good practice differs: the topics, their schools, and why the default is the default.

The first school of each topic is the default. Each school changes steps, order, values or checks
of a procedure (docs/craft.md §20); what it changes is said in ``effect``.
"""

from dataclasses import dataclass

from eldrim.core.words.messages import gettext_lazy


@dataclass(frozen=True)
class School:
    """One way good shops do it. A ``refused`` school is shown with the reason, never chosen."""

    key: str
    name: str
    effect: str = ""
    refused: str = ""

    def __post_init__(self) -> None:
        """Words are put into the language of the page when they are shown."""
        for field in ("name", "effect", "refused"):
            object.__setattr__(self, field, gettext_lazy(getattr(self, field)))


@dataclass(frozen=True)
class Topic:
    """One question the house answers."""

    key: str
    name: str
    why: str
    schools: tuple[School, ...]

    def __post_init__(self) -> None:
        """Words are put into the language of the page when they are shown."""
        for field in ("name", "why"):
            object.__setattr__(self, field, gettext_lazy(getattr(self, field)))

    @property
    def default(self) -> str:
        """The key of the default school."""
        return self.schools[0].key

    def school(self, key: str) -> School:
        """The school of this key; raises KeyError for none."""
        return {s.key: s for s in self.schools}[key]


S = School
TOPICS: tuple[Topic, ...] = (
    Topic("thread_compound", "Thread compound", "Plating does the job; lubricant over-tightens.", (
        S("by_plating", "Off plated shells, a touch on bare steel in aluminium",
          "bare shells: a step more, aim reduced"),
        S("always", "A touch always, aim reduced", "a step more at every plug, aim reduced"),
        S("oil", "Thin oil, aim reduced", "a step more at every plug, aim reduced"),
        S("never", "Never", "threads stay dry"),
    )),
    Topic("tightening", "Tightening plugs", "A wrench can be checked.", (
        S("mid", "Torque wrench, aim mid-window", "the setting"),
        S("low_third", "Torque wrench, aim low third", "the setting"),
        S("seat_plus_angle", "Seat by hand, plus angle", "turns instead of a setting"),
        S("feel", "By feel alone", refused="No one can check it afterwards. The angle method is "
          "there for where no wrench fits."),
    )),
    Topic("temperature", "Engine temperature", "Cold threads do not gall.", (
        S("cold", "Cold to hand-warm"),
        S("maker_warm", "Slightly warm where the maker says so",
          "a short idle first, and the maker's warm window"),
    )),
    Topic("first_cylinder", "First cylinder", "The hard one sets the clock and finds the missing "
          "tool.", (
        S("worst_first", "Worst access first", "order of holes"),
        S("by_number", "In number order", "order of holes"),
        S("easiest_first", "Easiest first, for teaching", "order of holes"),
        S("bank_by_bank", "Bank by bank with a start between", "each bank finished, then started"),
    )),
    Topic("open_at_once", "How many wells open", "Fewer tool changes; leads cannot be crossed.", (
        S("by_ignition", "All wells with coils on plugs, one cylinder at a time with leads"),
        S("stage_by_stage", "Stage by stage, all wells", "order of steps"),
        S("one_at_a_time", "One cylinder at a time", "order of steps"),
    )),
    Topic("height_reference", "Height reference", "All out at once is quicker.", (
        S("none", "All coils out together"),
        S("one_stays", "One coil stays fitted until the others are back",
          "the last hole is done on its own"),
    )),
    Topic("new_gap", "Gap of new plugs", "Carriage moves straps.", (
        S("measure", "Measure all, set where allowed", "a measurement at every plug"),
        S("as_supplied", "Fit as supplied, inspect only", "a look instead of a measurement"),
    )),
    Topic("single_gap", "A gap printed as one number", "One number cannot be set.", (
        S("pm_005", "Read as ± 0.05 mm", "the range of the gap"),
        S("pm_01", "Read as ± 0.1 mm", "the range of the gap"),
        S("as_source", "As the source says it", "only what the gauge cannot tell apart"),
    )),
    Topic("dielectric_grease", "Dielectric grease", "Eases the next removal, keeps water out.", (
        S("boot", "A film in the boot's mouth"),
        S("insulator", "A film on the insulator"),
        S("none", "None; boots come greased", "no grease"),
    )),
    Topic("power_tools", "Power tools", "Never to break loose, start or tighten a plug.", (
        S("covers", "Only to run loose cover fasteners", "cover fasteners"),
        S("run_out", "Also to run out a plug already broken loose", "plugs too"),
        S("none", "None", "by hand throughout"),
    )),
    Topic("coil_joint_first", "Bolt or connector first on refit", "The bolt holds the coil still "
          "for the connector.", (
        S("bolt", "Bolt, then connector; on the way out the connector first"),
        S("connector", "Connector while the coil still moves; on the way out the bolt first",
          "order of bolt and connector, out and back"),
    )),
    Topic("first_start", "First start", "Finds faults before the work of covering.", (
        S("before_covers", "Before covers", "covers go on after the first start"),
        S("after_refit", "After full refit", "everything on before the first start"),
        S("each_bank", "After each bank", "a start after each bank where the engine can run"),
    )),
    Topic("coils", "Which coils are renewed", "Cost of getting back in decides.", (
        S("failed", "The failed one"),
        S("exposed_bank", "The exposed bank", "coils of the whole bank"),
        S("all", "All", "coils of every cylinder"),
    )),
    Topic("retrieval", "Lifting the plug out", "It cannot drop.", (
        S("socket", "Gripping socket"),
        S("hose", "Old boot or hose", "tool and words"),
        S("magnet", "Magnet", "tool and words"),
    )),
    Topic("old_plugs", "Old plugs", "The re-check compares with them.", (
        S("keep", "Keep labelled to the re-check"),
        S("scrap", "Scrap", "the last check"),
    )),
    Topic("well_cleaning", "Cleaning wells", "Quick and thorough, with goggles.", (
        S("air", "Compressed air, goggles"),
        S("vacuum", "Vacuum", "tool; no compressed air"),
        S("both", "Vacuum, then air", "tools"),
    )),
    Topic("electrode_index", "Electrode index", "Gains nothing on most engines.", (
        S("ignored", "Ignored"),
        S("maker", "To a stated direction where the maker asks", "words of the torque step"),
    )),
    Topic("thread_cleaning", "Cleaning threads", "A clean thread is left alone.", (
        S("when_needed", "Only when a plug will not start by hand"),
        S("every_hole", "Every hole, by chaser", "a step more at every plug"),
    )),
    Topic("breaking_loose", "Breaking loose", "Breaks the bond before the thread twists.", (
        S("short_sharp", "Short sharp pull, supported"),
        S("slow_steady", "Slow steady pull", "words of the step"),
    )),
    Topic("inspect_or_replace", "Inspect or replace", "Getting in costs more than the plug.", (
        S("replace", "Replace when out", "new plugs on the parts list"),
        S("refit_in_limits", "Refit if in limits", "no new plugs; the old are measured"),
    )),
    Topic("work_by_feel", "Work by feel", "Saves an hour where the visible bank guides the hand.", (
        S("allowed", "Allowed where the sheet offers it"),
        S("forbidden", "Not allowed", "the way in"),
    )),
)  # fmt: skip

BY_KEY = {topic.key: topic for topic in TOPICS}
