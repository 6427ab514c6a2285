"""What is said of companion work, intervals, and of now or later."""

INTERVAL: dict[str, str] = {
    "because.companion": "Asked for along with this job, while the way in is open",
    "label.measured": "As measured",
    "limit.companion": "outside what the sheet states: make it right and read again, or a finding",
}
