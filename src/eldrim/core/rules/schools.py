"""The schools of each topic as types: a misspelt topic or school does not pass mypy.

A test holds them to the table of topics, which says what each is.
"""

from typing import Literal, TypedDict


class Schools(TypedDict, total=False):
    """A school on each topic, or on some of them."""

    thread_compound: Literal["by_plating", "always", "oil", "never"]
    tightening: Literal["mid", "low_third", "seat_plus_angle", "feel"]
    temperature: Literal["cold", "maker_warm"]
    first_cylinder: Literal["worst_first", "by_number", "easiest_first", "bank_by_bank"]
    open_at_once: Literal["by_ignition", "stage_by_stage", "one_at_a_time"]
    height_reference: Literal["none", "one_stays"]
    new_gap: Literal["measure", "as_supplied"]
    single_gap: Literal["pm_005", "pm_01", "as_source"]
    dielectric_grease: Literal["boot", "insulator", "none"]
    power_tools: Literal["covers", "run_out", "none"]
    coil_joint_first: Literal["bolt", "connector"]
    first_start: Literal["before_covers", "after_refit", "each_bank"]
    coils: Literal["failed", "exposed_bank", "all"]
    retrieval: Literal["socket", "hose", "magnet"]
    old_plugs: Literal["keep", "scrap"]
    well_cleaning: Literal["air", "vacuum", "both"]
    electrode_index: Literal["ignored", "maker"]
    thread_cleaning: Literal["when_needed", "every_hole"]
    breaking_loose: Literal["short_sharp", "slow_steady"]
    inspect_or_replace: Literal["replace", "refit_in_limits"]
    work_by_feel: Literal["allowed", "forbidden"]
