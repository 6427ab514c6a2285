"""What one act takes, in minutes, at one open hole (shop practice; the log corrects it later)."""

ACTS: dict[str, float] = {
    "connector": 0.3,
    "fastener": 0.5,
    "pull coil": 0.4,
    "clean coils": 0.3,
    "clean well": 0.5,
    "plug out": 1.2,
    "read plug": 0.8,
    "check gap": 0.6,
    "prepare thread": 0.3,
    "start plug": 0.6,
    "torque plug": 0.6,
    "fit coil": 0.4,
    "unit": 1.0,
    "codes": 2.0,
    "battery": 0.5,
    "temperature": 0.5,
    "isolate": 1.0,
    "reconnect": 1.0,
    "lay out": 2.0,
    "parts": 1.5,
    "count tools": 1.5,
    "start engine": 2.0,
    "air leak": 1.5,
    "fuel": 1.5,
    "coolant": 2.0,
    "codes again": 2.0,
    "load test": 5.0,
    "sign": 0.5,
    "blower": 3.0,
    "warm": 3.0,
    "chase": 1.5,
    "opening": 0.3,
}
FELT = 1.6
TILTED = 1.2
TILT_DEGREES = 15.0


def share(total: float, weights: list[int]) -> list[float]:
    """Split ``total`` minutes by weight into tenths that add up to it exactly."""
    tenths = round(total * 10)
    whole = sum(weights)
    parts = [tenths * w // whole for w in weights]
    for index in range(tenths - sum(parts)):
        parts[index % len(parts)] += 1
    return [p / 10 for p in parts]
