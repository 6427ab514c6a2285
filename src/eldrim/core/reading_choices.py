"""What can be picked where a plug or a coil is read. The sentence of each is ``seen.ID``."""

PLUG_CONDITIONS = (
    "tan-dry",
    "white-clean",
    "white-blisters",
    "sooty-black",
    "wet-oily",
    "wet-fuel",
    "crust",
    "yellow-glaze",
    "rust-red",
    "insulator-track",
    "edges-rounded",
    "tip-bent",
    "insulator-cracked",
    "badly-seated",
)
# What is looked for besides, folded away until something of it is there.
MORE_PLUG_CONDITIONS = (
    "steam-clean",
    "specks",
    "varnish-smell",
    "strap-worn",
    "centre-worn",
    "gap-closed",
    "stain",
    "stain-streaked",
    "two-rings",
    "ring-missing",
    "blow-by",
    "loose",
    "stiff",
    "thread-carbon",
    "thread-rust",
    "shell-rust",
    "well-oil",
    "well-water",
    "boot-oily",
    "boot-torn",
    "boot-burnt",
)
# A conical seat has no ring to look for.
OF_A_RING = ("two-rings", "ring-missing")
COIL_CONDITIONS = (
    "sound",
    "coil-cracked",
    "coil-bulged",
    "coil-burnt",
    "rusty-foot",
    "oily-boot",
    "bent-pins",
)
MORE_COIL_CONDITIONS = ("pins-green", "spring-stretched", "boot-torn", "boot-burnt")
CAP_CONDITIONS = (
    "sound",
    "posts-eroded",
    "carbon-worn",
    "cap-cracked",
    "cap-tracked",
    "cap-damp",
    "towers-green",
)
ADVANCE_CONDITIONS = ("sound", "advance-slow", "advance-stuck", "shaft-play", "gear-play")
ROTOR_CONDITIONS = ("sound", "rotor-burnt", "rotor-cracked", "rotor-tracked", "rotor-loose")
POINTS_CONDITIONS = ("sound", "points-pitted", "points-blue", "points-oily", "heel-worn")
LEAD_CONDITIONS = (
    "sound",
    "lead-cracked",
    "lead-chafed",
    "lead-burnt",
    "lead-stiff",
    "ends-green",
    "end-loose",
)
PACK_CONDITIONS = (
    "sound",
    "coil-cracked",
    "coil-bulged",
    "coil-burnt",
    "towers-green",
    "bent-pins",
)
# Seen alone or not at all: whatever else is seen takes its place, and the other way round.
IN_ORDER = ("tan-dry", "sound")
# Several conditions are kept as one value, apart by this.
APART = ","
# What was kept before conditions had ids (runs and editions of plan format 1), and what it means.
CONDITIONS_BEFORE = {
    "light tan to grey, dry": "tan-dry",
    "chalk white, clean": "white-clean",
    "white blisters, melted edge": "white-blisters",
    "dry, sooty black": "sooty-black",
    "wet, black, oily": "wet-oily",
    "wet, smells of fuel": "wet-fuel",
    "white or green crust": "crust",
    "yellow-brown glaze": "yellow-glaze",
    "rust-red coating": "rust-red",
    "track down the insulator": "insulator-track",
    "edges rounded": "edges-rounded",
    "tip bent": "tip-bent",
    "cracked insulator": "insulator-cracked",
    "badly seated": "badly-seated",
    "sound": "sound",
    "cracked": "coil-cracked",
    "bulged": "coil-bulged",
    "burnt": "coil-burnt",
    "rusty foot": "rusty-foot",
    "oily boot": "oily-boot",
    "bent pins": "bent-pins",
}
