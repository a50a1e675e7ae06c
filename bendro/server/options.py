"""The options of the start command."""

from __future__ import annotations

import argparse
import os
from pathlib import Path

from bendro import ROOT
from bendro.settings import listed

PORT = 8713


def parser() -> argparse.ArgumentParser:
    made = argparse.ArgumentParser(
        prog="bin/start", description="Start Bendro.", formatter_class=argparse.RawDescriptionHelpFormatter,
        epilog=f"Settings, given as variables of the environment; an option goes before them:\n{listed()}",
    )  # fmt: skip
    made.add_argument("--port", type=int, default=PORT, help=f"port of the pages (default {PORT})")
    made.add_argument("--host", default="127.0.0.1", help="address to listen on; 0.0.0.0 lets tablets in the same network in")
    made.add_argument("--https", action="store_true", help="https in the network, with a certificate of this machine’s own; http stays on this machine")
    made.add_argument("--certificate", type=Path, metavar="FILE", help="https with the school’s own certificate (PEM, with those in between)")
    made.add_argument("--key", type=Path, metavar="FILE", help="the key of that certificate (PEM)")
    made.add_argument("--https-port", type=int, metavar="PORT", help="port of https (default: one above --port)")
    made.add_argument("--local-name", metavar="NAME", help="answer to NAME.local in this network (mDNS), where that is allowed")
    made.add_argument("--name", action="append", default=[], help="a further name under which pages are opened, such as bendro.school.example")
    made.add_argument("--proxy", action="append", default=[], metavar="ADDRESS", help="address of a proxy in front of Bendro, which may say who calls and that https was used")
    made.add_argument("--processes", default="1", metavar="N", help="so many server processes behind one address; auto: one for each core, eight at most")
    made.add_argument("--no-demo", action="store_true", help="start without the demo scenario")
    made.add_argument("--data", type=Path, default=ROOT / ".data", help="folder of the data")
    made.add_argument("--log-json", action="store_true", help="lines of the log as JSON")
    made.add_argument("--offline", type=Path, metavar="FOLDER", help="install from a folder that bin/bundle made, without a network")
    made.add_argument("--install-only", action="store_true", help="install what is missing and start nothing")
    made.add_argument("--add-account", action="store_true", help="make an account here at the terminal; also while Bendro runs")
    made.add_argument("--reset-password", metavar="NAME", help="set a new password for an account at the terminal; also while Bendro runs")
    return made


def processes_of(text: str) -> int | None:
    """How many processes are asked for; None for what is no number of them."""
    if text == "auto":
        return max(1, min(8, os.cpu_count() or 1))
    return int(text) if text.isascii() and text.isdigit() and 1 <= int(text) <= 64 else None
