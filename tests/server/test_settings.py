"""One name a setting, three places; what is wrong is named, a secret never."""

from pathlib import Path

import pytest

from eldrim.core.errors import ProblemsError
from eldrim.server.settings import read_settings


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
