"""Every sentence a step can say, in one place and one voice: the imperative, to a technician.

A pattern is named by what the step does; ``{slots}`` are filled by the compiler. A second
language is a second table with the same names.
"""

ENGLISH: dict[str, str] = {
    # Ready
    "unit": "Confirm the unit: {engine}, {variant}",
    "unit.detail": "Serial on the plate against the unit's card. Sheet revision {revision}. "
    "Write down the meter.",
    "codes": "Read the fault codes and write them down",
    "codes.detail": "Before anything is unplugged or cleared. Freeze data too. Write “none” if "
    "there is none.",
    "battery": "Measure the battery at rest",
    "battery.detail": "Key off, lamps off, standing. Under the limit: charge and measure again.",
    "temperature": "Measure the cylinder head",
    "temperature.detail": "Start only inside the window. An aluminium head grips a hot plug.",
    "key": "Switch off, take the key out",
    "key.detail": "Keep the key on you.",
    "isolate": "Take the battery negative off",
    "isolate.detail": "Tuck it away so that it cannot spring back.",
    "tools": "Lay out and count the tools",
    "tools.detail": "{count} pieces, in order of use: {tools}.",
    "parts": "Check the new parts against the sheet",
    "parts.detail": "{parts}. Plugs: thread {thread}, reach {reach}, {seat} seat, hex {hex}; "
    "insulator and electrodes whole. A dropped plug is scrap.",
    "unit.why": "The spec of another unit or variant is the first mistake to make impossible",
    "codes.why": "A code cleared or set by unplugging can no longer be read",
    "battery.why": "A weak battery looks like a weak spark",
    "temperature.why": "A hot aluminium head grips the plug, and threads gall",
    "key.why": "No one can start the engine on a hand",
    "tools.why": "What is counted out can be counted back",
    "parts.why": "A number on the box is not proof; a wrong reach meets the piston",
    # Uncover
    "release": "{verb} {joints} of {part}",
    "remove": "Lift off {part}",
    "remove.detail": "Bag and label what came off. Set it down where it cannot fall.",
    "swing_aside": "Swing {part} aside",
    "swing_aside.detail": "Hoses and cables stay on; tie it so that nothing pulls.",
    "unclip": "Lay {part} aside",
    "unclip.detail": "Only as far as it goes without pulling.",
    "loosen_and_shift": "Push {part} back",
    "loosen_and_shift.detail": "Slackened, not off.",
    "plug_opening": "Plug the {openings}",
    "plug_opening.detail": "At once, with a clean plug or lint-free rag; count them.",
    "round": "{part} stays: {note}",
    # Clean and pull
    "clean_coils": "Clean round {what} {holes}",
    "clean_coils.detail": "Before any comes out. Oil or water round one is a finding.",
    "hole_release": "{verb} {joints} of {what} {hole}",
    "remove_coil": "Pull coil {hole}",
    "remove_coil.detail": "Twist to free the boot, lift at the ribs, straight along the well. "
    "Lay it in the tray under {hole}.",
    "remove_lead": "Pull lead {hole} off its plug",
    "remove_lead.detail": "Grip the boot, never the lead; twist a little both ways.",
    "clean_well": "Clean well {hole}",
    "clean_well.detail": "Before the plug moves. Wick out any oil; oil in a well is a finding.",
    "remove_plug": "Take out plug {hole}",
    "remove_plug.detail": "Socket square and fully down, support the ratchet head. {pull}, then "
    "{run}; the last turns by hand. If it binds: half a turn back in, a little penetrant, out "
    "again. {lift}",
    "pull.short_sharp": "Short sharp pull",
    "pull.slow_steady": "Slow steady pull",
    "run.run_out": "run it out, by power driver if you like once it is loose",
    "run.hand": "run it out by hand",
    "lift.socket": "Lift it out in the gripping socket.",
    "lift.hose": "Lift it out with an old boot or a length of hose.",
    "lift.magnet": "Lift it out with the magnet.",
    "stand": "Stand at the {side} of the plan.",
    "skills": "For someone who can: {skills}.",
    "power.covers": "Once loose, a power driver may run them out.",
    "chase_plug": "Chase the thread of hole {hole}",
    "chase_plug.detail": "Greased chaser, turned by hand, cylinder shielded; never a cutting tap.",
    "gap_plug.as_supplied": "Fit as supplied: look only. Strap straight, tip whole, gap even.",
    "gap_plug.used": "Check the gap of plug {hole} before it goes back",
    "gap_plug.used.detail": "Measured as found. Out of range: fit a new one.",
    "look_plug": "Look over the new plug for {hole}",
    "prepare_plug.oil": "A trace of thin oil on plug {hole}",
    "turn_plug": "Seat plug {hole}, then turn {angle}",
    "turn_plug.detail": "Hand-tight to the seat, mark the handle, then the angle. The ring is felt "
    "twice: it starts to give, then goes firm; stop just after.",
    "turn_plug.no_wrench": "No torque wrench does it here: {why}",
    "further": "Once the wrench clicks, turn {angle} further.",
    "index": "Electrode: {index}.",
    "warm": "Let the engine idle briefly",
    "warm.detail": "A minute in summer, two or three in winter, until the head is in the maker's "
    "warm window.",
    "start_between": "Start and listen before the next bank",
    "start_between.detail": "The covers still off are not needed for running.",
    "no_start_between": "No start between banks: {parts} must be on for the engine to run.",
    "fit_coil.new": "The new one. ",
    # Read
    "read_plug": "Read plug {hole}",
    "read_plug.detail": "Nose, electrodes, shell, threads, ring. Old ring out of the head? "
    "Lay it in the tray under {hole}.",
    "read_coil": "Look over coil {hole}",
    "read_coil.detail": "Cracks, bulge, burn marks, rusty foot, oily boot, connector pins.",
    # Fit
    "gap_plug": "Check the gap of the new plug for {hole}",
    "gap_plug.fine_wire": "Wire gauge only; never lever a fine tip. Out of range: send it back.",
    "gap_plug.nickel": "Out of range: bend the ground strap only, a few hundredths at a time.",
    "gap_plug.multi_ground": "Not adjustable. Out of range: send it back.",
    "gap_plug.surface_gap": "Not adjustable. Look for damage only.",
    "prepare_plug": "Touch thread compound onto plug {hole}",
    "prepare_plug.detail": "Middle threads only; none on the first two, none near the electrode.",
    "start_plug": "Start plug {hole} by hand",
    "start_plug.detail": "{ring}Lower it, never drop it. Fingers or extension only; count "
    "the free turns. Under two: stop, out again, look.{dry}",
    "start_plug.ring": "Old ring gone? ",
    "start_plug.dry": " Thread dry and clean.",
    "torque_plug": "Torque plug {hole}",
    "torque_plug.detail": "Keep the drive centred. One click, stop.",
    # Refit
    "fit_coil": "Seat coil {hole}",
    "fit_coil.detail": "{new}{grease}Push straight down until it seats.",
    "fit_coil.boot": "Thin film of dielectric grease in the boot's mouth. ",
    "fit_coil.insulator": "Thin film of dielectric grease on the insulator. ",
    "fit_lead": "Push lead {hole} onto its plug",
    "fit_lead.detail": "{new}{grease}Until it clicks and no metal shows; lay it in its holder.",
    "fit_lead.new": "The new one, as long as the old and ended like it. ",
    "fit_lead.boot": "Thin film of dielectric grease in the boot's mouth. ",
    "fit_lead.insulator": "Thin film of dielectric grease on the insulator. ",
    "renew": "Renew {joints} of {part}",
    "renew.detail": "Faces clean and dry. The old one does not go back.",
    "unplug_opening": "Unplug the {openings}",
    "unplug_opening.detail": "Count them back; look inside with a light before it closes.",
    "fit": "Set {part} in place",
    "fit.detail": "No wire, hose or rag caught underneath.",
    "back": "Bring {part} back",
    "back.detail": "As it lay, nothing pulling.",
    "refit": "{verb} {joints} of {part}",
    "hole_refit": "{verb} {joints} of {what} {hole}",
    "one_time": "New ones: used once only.",
    "plastic": "Plastic ear: snug, do not crush.",
    "pattern": "In the order {order}, first half, then full.",
    "pattern.plain": "Half, then full.",
    # Prove
    "reconnect": "Battery negative back on",
    "reconnect.detail": "Last of all connections. Clock and windows may want setting.",
    "count_tools": "Count the tools back",
    "count_tools.detail": "{count} pieces; rags and opening plugs too. One missing: find it "
    "before any start.",
    "openings": "Nothing left over, nothing left plugged",
    "openings.detail": "Openings plugged on this job: {openings}.",
    "fuel": "Prime the fuel and look for seeps",
    "fuel.detail": "Every joint that was off, with a light, before the first start.",
    "coolant": "Fill and bleed the coolant",
    "coolant.detail": "Level cold, again after the first warm run.",
    "blower": "Blower on, then sniff the engine space",
    "blower.detail": "Water supply on; never run dry.",
    "start": "Start the engine and listen",
    "start.detail": "No warning lamp, steady idle, no hiss, no leak.",
    "air_leak": "Check for air leaks",
    "air_leak.detail": "At every intake joint that was off: idle must not change.",
    "clear_codes": "Clear the codes",
    "clear_codes.detail": "Only now, and only once the first reading is written down.",
    "load": "Test under load",
    "load.detail": "A drive or a load run long enough for the fault to show.",
    "codes_again": "Read the codes again",
    "codes_again.detail": "Write “none” if there is none.",
    "sign": "Look over, set the next due and sign",
    "sign.detail": "Every check closed.",
    "sign.keep": "Old plugs labelled by cylinder and date, kept to the re-check",
    "sign.scrap": "Old plugs scrapped",
    "count_tools.why": "A tool left behind finds the belt",
    "openings.why": "Each was plugged on this job",
    "fuel.why": "A fuel joint was opened on this job",
    "coolant.why": "Coolant was disturbed on this job",
    "blower.why": "Vapour gathers low in a boat",
    "start.why": "Finds a fault before the work of covering, or before the road does",
    "start_between.why": "A fault shows while only one bank was touched",
    "air_leak.why": "An intake joint was opened on this job",
    "clear_codes.why": "Only what comes back counts",
    "load.why": "A weak spark shows under load first",
    "codes_again.why": "Proof that nothing came back",
    "sign.why": "Someone answers for the work",
}


def why(name: str) -> tuple[str, ...]:
    """The reason for a step that every job has."""
    return (ENGLISH[f"{name}.why"],)


def say(name: str, **slots: object) -> str:
    """Fill the pattern ``name``; an empty string when there is no such pattern."""
    return ENGLISH.get(name, "").format(**slots)


def listed(words: list[str] | tuple[str, ...]) -> str:
    """Join words as people do: ``1, 3 and 5``."""
    if len(words) < 2:
        return "".join(words)
    return f"{', '.join(words[:-1])} and {words[-1]}"


def the(name: str) -> str:
    """Put the article before a part's name: ``the intake plenum``."""
    return f"the {name[0].lower()}{name[1:]}"
