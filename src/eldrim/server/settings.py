"""What a server is told: on the command line, in the environment, or in one TOML file."""

from pathlib import Path
from typing import Annotated, Any, Literal
from zoneinfo import available_timezones

from pydantic import Field, SecretStr, ValidationError, field_validator, model_validator
from pydantic_settings import (
    BaseSettings,
    PydanticBaseSettingsSource,
    SettingsConfigDict,
    TomlConfigSettingsSource,
)

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.exchange.model_faults import fault_words
from eldrim.store.cluster import ROOT
from eldrim.web.front import DEFAULT_ZONE, Front

PREFIX = "ELDRIM_"


class Settings(BaseSettings):
    """Every setting has one name: ``tls_cert`` in the file, ``ELDRIM_TLS_CERT`` in the
    environment, ``--tls-cert`` on the command line. The line wins over the environment, that over
    the file.
    """

    model_config = SettingsConfigDict(env_prefix=PREFIX, env_ignore_empty=True, extra="forbid")

    database_url: SecretStr = SecretStr("")
    """Where PostgreSQL is; empty: one of our own under ``home``, on this machine alone."""
    home: Path = ROOT / "var" / "workshop"
    """The folder of our own PostgreSQL."""
    host: str = "127.0.0.1"
    port: Annotated[int, Field(ge=1, le=65535)] = 8400
    workers: Annotated[int, Field(ge=1, le=32)] = 1
    tls_cert: Path | None = None
    tls_key: Path | None = None
    trusted_proxy: str = ""
    """Addresses whose word on where a request comes from is taken, with commas between."""
    allowed_hosts: str = ""
    """Names this server answers to, with commas between; empty for any."""
    secure_cookies: bool = False
    """TLS ends before us, and what stands there does not say so."""
    metrics_token: SecretStr = SecretStr("")
    log_format: Literal["words", "json"] = "words"
    zone: str = DEFAULT_ZONE
    """Where the clock on the shop's wall is, as ``Area/City``."""

    @field_validator("zone")
    @classmethod
    def _is_a_zone(cls, value: str) -> str:
        if value not in available_timezones():
            raise ValueError(f"there is no time zone '{value}'; write it as Europe/Dublin")
        return value

    @field_validator("tls_cert", "tls_key")
    @classmethod
    def _is_there(cls, value: Path | None) -> Path | None:
        if value is not None and not value.is_file():
            raise ValueError(f"there is no file {value}")
        return value

    @field_validator("database_url")
    @classmethod
    def _is_postgresql(cls, value: SecretStr) -> SecretStr:
        if value.get_secret_value() and not value.get_secret_value().startswith("postgresql"):
            raise ValueError("only postgresql://… is understood")
        return value

    @model_validator(mode="after")
    def _both_or_none(self) -> "Settings":
        if bool(self.tls_cert) != bool(self.tls_key):
            raise ValueError("tls_cert and tls_key belong together")
        return self

    @classmethod
    def settings_customise_sources(
        cls,
        settings_cls: type[BaseSettings],
        init_settings: PydanticBaseSettingsSource,
        env_settings: PydanticBaseSettingsSource,
        dotenv_settings: PydanticBaseSettingsSource,
        file_secret_settings: PydanticBaseSettingsSource,
    ) -> tuple[PydanticBaseSettingsSource, ...]:
        """The command line, the environment, the file; nothing lying about is read."""
        return init_settings, env_settings, TomlConfigSettingsSource(settings_cls)

    def front(self) -> Front:
        """How it stands towards the outside."""
        hosts = (host.strip() for host in self.allowed_hosts.split(","))
        return Front(
            secure=self.secure_cookies,
            hosts=tuple(host for host in hosts if host),
            metrics_token=self.metrics_token.get_secret_value(),
        )

    @property
    def address(self) -> str:
        """Where a browser on this machine finds it."""
        scheme = "https" if self.tls_cert else "http"
        host = "127.0.0.1" if self.host in ("0.0.0.0", "::") else self.host
        return f"{scheme}://{f'[{host}]' if ':' in host else host}:{self.port}"


def read_settings(file: Path | None = None, **said: Any) -> Settings:
    """The settings, those in ``said`` above all; None stands for not said.

    Raises :class:`ProblemsError` that names each setting that is wrong, never its secret.
    """
    if file is not None and not file.is_file():
        raise ProblemsError([Problem("config", f"there is no file {file}", "check the path")])
    given = {name: value for name, value in said.items() if value is not None}

    class FromFile(Settings):
        model_config = SettingsConfigDict(toml_file=file)

    try:
        return FromFile(**given)
    except ValidationError as error:
        raise ProblemsError([_problem(dict(fault)) for fault in error.errors()]) from None
    except (OSError, ValueError) as error:
        raise ProblemsError([Problem(str(file), str(error), "this is not TOML")]) from None


def _problem(fault: dict[str, Any]) -> Problem:
    name = ".".join(str(part) for part in fault["loc"]) or "settings"
    if fault["type"] == "extra_forbidden":
        return Problem(name, "there is no such setting", "see docs/operate.md")
    # What was given may be a secret.
    said = fault_words(fault, quoting=False)
    return Problem(name, said, f"--{name.replace('_', '-')}, {PREFIX}{name.upper()} or the file")
