"""One name a setting, three places; what is wrong is named, a secret never."""

import os
import subprocess
import sys
from pathlib import Path

import pytest

from eldrim.core.base.errors import ProblemsError
from eldrim.server.settings import read_settings
from eldrim.store.cluster import ROOT


def test_the_line_wins_over_the_environment_over_the_file(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """And what none says is as it comes."""
    file = tmp_path / "eldrim.toml"
    file.write_text('port = 1111\nhost = "10.0.0.1"\nworkers = 3\n')
    monkeypatch.setenv("ELDRIM_PORT", "2222")
    monkeypatch.setenv("ELDRIM_WORKERS", "5")
    found = read_settings(file, port=3333, host=None)
    assert (found.port, found.workers, found.host) == (3333, 5, "10.0.0.1")
    assert found.address == "http://10.0.0.1:3333"
    assert not found.secure_cookies


@pytest.mark.parametrize(
    ("said", "names"),
    [
        ("port = 0", "port"),
        ("port = 'x'", "port"),
        ("tls_cert = '/nowhere.pem'", "there is no file /nowhere.pem"),
        ("prot = 1", "prot: there is no such setting"),
        ("port = ", "not TOML"),
        ("workers = 900", "workers"),
        ("zone = 'Skerry/Field'", "there is no time zone 'Skerry/Field'"),
        ("database_url = 'mysql://me:hidden@x/y'", "only postgresql"),
    ],
)
def test_what_is_wrong_is_named_and_its_fix(tmp_path: Path, said: str, names: str) -> None:
    """Never with the secret in it."""
    file = tmp_path / "eldrim.toml"
    file.write_text(said)
    with pytest.raises(ProblemsError) as caught:
        read_settings(file)
    assert names in str(caught.value)
    assert "hidden" not in str(caught.value)


def test_a_certificate_without_its_key_is_no_tls(tmp_path: Path) -> None:
    """Both or none; and a file of settings that is not there is said."""
    cert = tmp_path / "cert.pem"
    cert.write_text("x")
    with pytest.raises(ProblemsError, match="belong together"):
        read_settings(None, tls_cert=cert)
    with pytest.raises(ProblemsError, match="no file"):
        read_settings(tmp_path / "none.toml")


def test_names_we_answer_to_are_a_list() -> None:
    """With commas between, blanks do not matter."""
    front = read_settings(None, allowed_hosts="a.example, b.example,", metrics_token="t").front()
    assert front.hosts == ("a.example", "b.example")
    assert front.metrics_token == "t"


def test_the_documented_file_is_understood() -> None:
    """As it stands, all lines; and what a workshop has by itself is told to the pages."""
    file = ROOT / "docs" / "deploy" / "eldrim.toml"
    stated = [line for line in file.read_text().splitlines() if " = " in line and line[0] != "#"]
    assert len(stated) == 6
    found = read_settings(file)
    assert (found.allowed_hosts, found.trusted_proxy) == ("workshop.example", "127.0.0.1")
    assert found.database_url.get_secret_value().startswith("postgresql://eldrim:")


def test_the_clock_on_the_wall_is_the_workshop_s() -> None:
    """Read in a process of its own, as a server starts."""
    asked = "from eldrim.web import filters; print(filters.SHOP_ZONE.key)"
    done = subprocess.run(
        [sys.executable, "-c", asked],
        env=os.environ | {"ELDRIM_ZONE": "Pacific/Auckland"},
        capture_output=True,
        text=True,
        check=True,
    )
    assert done.stdout.strip() == "Pacific/Auckland"
