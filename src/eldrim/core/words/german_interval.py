"""What is said of companion work, intervals, and of now or later, in German."""

INTERVAL: dict[str, str] = {
    "because.companion": "Mit dieser Arbeit verlangt, solange der Zugang offen ist",
    "label.measured": "Gemessen",
    "limit.companion": "nicht, was das Blatt sagt: richten und neu messen, oder ein Befund",
}
