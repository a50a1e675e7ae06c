"""Settings: one typed list, read once at start. Environment variables begin with BENDRO_."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

from bendro import ROOT


class Settings(BaseSettings):
    model_config = SettingsConfigDict(env_prefix="BENDRO_", frozen=True)

    database_url: str = Field("", description="postgresql+psycopg address; empty: the launcher’s own server")
    data: Path | None = Field(None, description="Folder of the data, looked at for its free room; the launcher’s own where it is not given")
    proxies: str = Field("", description="Addresses of the proxies in front of Bendro, with commas between: only they may say who calls and how")
    demo: bool = Field(False, description="Offer the demo account on the sign-in page")
    session_hours: int = Field(24 * 14, description="A sign-in lasts so long, in hours")
    sign_in_tries: int = Field(8, description="Wrong passwords for one account before a pause")
    sign_in_tries_of_address: int = Field(40, description="Wrong passwords and codes from one address of the network before a pause")
    sign_in_window_s: int = Field(600, description="Length of that pause, in seconds")
    join_tries_of_address: int = Field(60, description="Wrong lesson codes from one address of the network before a pause")
    join_tries_of_all: int = Field(2000, description="Wrong lesson codes from everywhere before a pause")
    first_code: str = Field("", description="The code that makes the first account; the launcher makes one and prints it")
    host_names: str = Field("", description="Names that Bendro answers to beside this machine’s own, with commas between")
    most_body_bytes: int = Field(6_000_000, description="Largest request, in bytes")
    most_photo_bytes: int = Field(20_000_000, description="Largest photo as it is sent, in bytes")
    body_s: float = Field(60, description="A body that has not arrived whole within so many seconds is given up")
    calls_at_once: int = Field(14, description="Calls worked on at one moment; with the sign-ins, fewer than connections")
    wait_for_turn_s: float = Field(2, description="A call waits so long for its turn, in seconds; then it is asked to come again")
    web_dist: Path = Field(ROOT / "web" / "dist", description="The built web pages")


@cache
def settings() -> Settings:
    return Settings()
