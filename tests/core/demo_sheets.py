"""The demo engines by their shape."""

from eldrim.demo.load import demo_engines

ENGINES = {engine.id: engine for engine in demo_engines()}
SIX = ENGINES["marlet-34-v6"]
FOUR = ENGINES["corvane-20-turbo-four"]
GAS = ENGINES["dunmarl-42-six"]
MARINE = ENGINES["fendrake-50-marine-v8"]
FLAT = ENGINES["ostler-16-flat-four"]
TRIPLE = ENGINES["sulair-750-triple"]
EIGHT = ENGINES["brannoch-57-v8"]
TWIN = ENGINES["kestwick-900-twin"]
