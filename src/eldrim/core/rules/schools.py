"""The schools of each topic as types: a misspelt topic or school does not pass mypy.

A test holds them to the table of topics, which says what each is.
"""

from typing import Literal, TypedDict

ThreadCompound = Literal["by_plating", "always", "oil", "never"]
Tightening = Literal["mid", "low_third", "seat_plus_angle", "feel"]
Temperature = Literal["cold", "maker_warm"]
FirstCylinder = Literal["worst_first", "by_number", "easiest_first", "bank_by_bank"]
OpenAtOnce = Literal["by_ignition", "stage_by_stage", "one_at_a_time"]
HeightReference = Literal["none", "one_stays"]
NewGap = Literal["measure", "as_supplied"]
SingleGap = Literal["pm_005", "pm_01", "as_source"]
DielectricGrease = Literal["boot", "insulator", "none"]
PowerTools = Literal["covers", "run_out", "none"]
CoilJointFirst = Literal["bolt", "connector"]
FirstStart = Literal["before_covers", "after_refit", "each_bank"]
Coils = Literal["failed", "exposed_bank", "all"]
Retrieval = Literal["socket", "hose", "magnet"]
OldPlugs = Literal["keep", "scrap"]
WellCleaning = Literal["air", "vacuum", "both"]
ElectrodeIndex = Literal["ignored", "maker"]
ThreadCleaning = Literal["when_needed", "every_hole"]
BreakingLoose = Literal["short_sharp", "slow_steady"]
InspectOrReplace = Literal["replace", "refit_in_limits"]
WorkByFeel = Literal["allowed", "forbidden"]


class Schools(TypedDict):
    """The school in force on every topic."""

    thread_compound: ThreadCompound
    tightening: Tightening
    temperature: Temperature
    first_cylinder: FirstCylinder
    open_at_once: OpenAtOnce
    height_reference: HeightReference
    new_gap: NewGap
    single_gap: SingleGap
    dielectric_grease: DielectricGrease
    power_tools: PowerTools
    coil_joint_first: CoilJointFirst
    first_start: FirstStart
    coils: Coils
    retrieval: Retrieval
    old_plugs: OldPlugs
    well_cleaning: WellCleaning
    electrode_index: ElectrodeIndex
    thread_cleaning: ThreadCleaning
    breaking_loose: BreakingLoose
    inspect_or_replace: InspectOrReplace
    work_by_feel: WorkByFeel


class SomeSchools(TypedDict, total=False):
    """Schools of some topics."""

    thread_compound: ThreadCompound
    tightening: Tightening
    temperature: Temperature
    first_cylinder: FirstCylinder
    open_at_once: OpenAtOnce
    height_reference: HeightReference
    new_gap: NewGap
    single_gap: SingleGap
    dielectric_grease: DielectricGrease
    power_tools: PowerTools
    coil_joint_first: CoilJointFirst
    first_start: FirstStart
    coils: Coils
    retrieval: Retrieval
    old_plugs: OldPlugs
    well_cleaning: WellCleaning
    electrode_index: ElectrodeIndex
    thread_cleaning: ThreadCleaning
    breaking_loose: BreakingLoose
    inspect_or_replace: InspectOrReplace
    work_by_feel: WorkByFeel
