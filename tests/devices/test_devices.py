"""Devices and their stand-ins: what is streamed, what is asked, what happens when one is lost."""

import json
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.devices.adapter import Adapter, DeviceError
from eldrim.devices.code_frames import code_bytes, code_text, cut, join
from eldrim.devices.hub import Hub, Listener, Notice, Reading, read_line, urls_from_environment
from eldrim.devices.play import StandIns

CLIENT = Path(__file__).with_name("obd_client.py")
codes = st.builds(
    lambda letter, first, rest: f"{letter}{first}{rest:03X}",
    st.sampled_from("PCBU"),
    st.integers(0, 3),
    st.integers(0, 0xFFF),
)


@pytest.fixture
def played() -> Iterator[StandIns]:
    """Every stand-in, as the demo starts them."""
    standins = StandIns().start()
    yield standins
    standins.stop()


@given(codes)
def test_a_code_is_two_bytes_and_back(code: str) -> None:
    """Letter, system, number."""
    assert code_text(*code_bytes(code)) == code


@given(st.binary(min_size=1, max_size=100), st.randoms())
def test_a_message_in_frames_is_joined_whatever_the_order(message: bytes, chance) -> None:  # type: ignore[no-untyped-def]
    """And one that lacks a frame is no message."""
    frames = cut(message)
    assert all(len(f) <= 8 for f in frames)
    mixed = frames[:]
    chance.shuffle(mixed)
    assert join(mixed) == message
    if len(frames) > 1:
        with pytest.raises(ValueError, match="missing"):
            join(frames[:-1])


@pytest.mark.parametrize("bad", ["", "P030", "X0300", "P9300", "P03ZZ"])
def test_what_is_no_code_is_refused(bad: str) -> None:
    """By its form."""
    with pytest.raises(ValueError, match=r"no trouble code|invalid literal"):
        code_bytes(bad)


def test_a_line_of_a_device_is_understood_or_let_go() -> None:
    """A peak is not the last word; noise is nothing."""
    assert read_line("wrench", "CLICK 17.6 N·m") == Reading("wrench", "torque", 17.6, "N·m")
    peak = read_line("wrench", "PEAK 9.9 N·m")
    assert peak is not None
    assert peak.passing == "peak"
    assert read_line("gauge", "READ 0.76 mm") == Reading("gauge", "gap", 0.76, "mm")
    for noise in ("", "CLICK", "READ one mm", "\x00\x01"):
        assert read_line("meter", noise) is None


def test_where_devices_are_comes_from_the_environment(monkeypatch: pytest.MonkeyPatch) -> None:
    """By kind; nothing stated, nothing there."""
    monkeypatch.setenv("ELDRIM_DEVICES", "wrench=/dev/ttyUSB0, meter=socket://10.0.0.2:4000")
    assert urls_from_environment() == {"wrench": "/dev/ttyUSB0", "meter": "socket://10.0.0.2:4000"}
    monkeypatch.delenv("ELDRIM_DEVICES")
    assert urls_from_environment() == {}


def heard(listener: Listener, within: float = 30.0) -> Reading | Notice:
    """The next final thing a tablet hears, that a device is there aside."""
    end = time.monotonic() + within
    while time.monotonic() < end:
        said = listener.messages.get(timeout=within)
        if said.what != "here" if isinstance(said, Notice) else not said.passing:
            return said
    raise AssertionError("nothing was heard")


def linked(hub: Hub, device: str) -> None:
    """Wait until the hub hears a device."""
    for _ in range(100):
        if hub.present[device]:
            time.sleep(0.1)
            return
        time.sleep(0.05)
    raise AssertionError("never linked")


def test_a_pull_streams_its_peak_and_clicks_to_the_tablet_that_took_the_wrench(
    played: StandIns,
) -> None:
    """To no other; and taken over, the first is told."""
    hub, mine, other = Hub(played.urls), Listener("one"), Listener("other")
    hub.take(mine, ["wrench"])
    hub.take(other, ["gauge"])
    linked(hub, "wrench")
    linked(hub, "gauge")
    played.play("wrench", "17.6 N·m")
    assert heard(mine) == Reading("wrench", "torque", 17.6, "N·m")
    assert other.messages.get_nowait() == Notice("gauge", "here")
    assert other.messages.empty()
    assert hub.owners("") == {"wrench": "one", "gauge": "other"}
    hub.take(other, ["wrench"])
    assert heard(mine) == Notice("wrench", "taken", "other")
    played.play("gauge", "1.05 mm")
    assert heard(other) == Reading("gauge", "gap", 1.05, "mm")
    hub.leave(other)
    hub.close()


def test_an_older_wish_that_comes_late_takes_nothing(played: StandIns) -> None:
    """The window asked again meanwhile: its newer listener keeps what it took, and is not told."""
    hub = Hub(played.urls)
    older, newer = Listener("one", "window", 1), Listener("one", "window", 2)
    hub.take(newer, ["wrench"])
    hub.take(older, ["wrench"])
    linked(hub, "wrench")
    played.play("wrench", "17.6 N·m")
    assert heard(newer) == Reading("wrench", "torque", 17.6, "N·m")
    assert older.messages.empty()
    third = Listener("one", "window", 3)
    hub.take(third, ["wrench"])
    assert newer.messages.empty(), "its own window took it"
    hub.close()


def test_a_lost_device_comes_back_by_itself(played: StandIns) -> None:
    """Nothing waits for it meanwhile."""
    hub, mine = Hub(played.urls), Listener("one")
    hub.take(mine, ["meter"])
    linked(hub, "meter")
    played.play("meter", "off")
    played.play("meter", "12.1 V")
    assert heard(mine) == Notice("meter", "lost")
    assert mine.messages.empty()
    played.play("meter", "on")
    assert mine.messages.get(timeout=30) == Notice("meter", "here")
    played.play("meter", "12.6 V")
    assert heard(mine) == Reading("meter", "volts", 12.6, "V")
    hub.close()


def test_our_link_reads_freezes_and_clears(played: StandIns) -> None:
    """Many codes come in many frames."""
    many = ["P0300", "P0301", "P0303", "P0353", "U0100", "B1234"]
    played.play("adapter", f"codes {' '.join(many)}")
    played.play("adapter", "coolant 91")
    played.play("adapter", "rpm 812.5")
    with Adapter(played.urls["adapter"]) as adapter:
        assert list(adapter.codes()) == many
        frozen = adapter.freeze()
        assert frozen is not None
        assert (frozen.code, frozen.coolant, frozen.rpm) == ("P0300", 91.0, 812.5)
        assert (adapter.coolant(), adapter.rpm(), adapter.voltage()) == (91.0, 812.5, 14.1)
        adapter.clear()
        assert adapter.codes() == ()
        assert adapter.freeze() is None
    with pytest.raises(DeviceError, match="no trouble code"):
        played.play("adapter", "codes nonsense")


def test_an_adapter_that_is_not_there_is_said(played: StandIns) -> None:
    """In words, at once."""
    with pytest.raises(DeviceError, match="cannot be reached"):
        Adapter("socket://127.0.0.1:9")
    with pytest.raises(DeviceError, match="no toaster"):
        played.play("toaster", "on")


def test_an_independent_client_reads_and_clears_codes(played: StandIns) -> None:
    """The adapter answers the standard, not only us."""
    played.play("adapter", "codes P0303 P0353 P0171")
    said = subprocess.run(
        [sys.executable, str(CLIENT), played.urls["adapter"], "clear"],
        capture_output=True,
        text=True,
        timeout=60,
        check=True,
    )
    found = json.loads(said.stdout.strip().splitlines()[-1])
    assert found["connected"] is True
    assert found["protocol"] == "6"
    assert found["codes"] == ["P0303", "P0353", "P0171"]
    assert found["COOLANT_TEMP"] == 82
    assert found["RPM"] == 850
    assert found["freeze"][0] == "P0303"
    assert found["left"] == []
