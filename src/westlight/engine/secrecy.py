"""Who may talk to a scheduler: those who hold the same certificate and key, over TLS.

Whoever reaches a scheduler can have its workers do anything. On loopback that is this machine alone; beyond it both
ends must show the certificate that `make` wrote into a folder, named by ``WESTLIGHT_TLS`` on every machine.
"""

from __future__ import annotations

import os
import subprocess
from pathlib import Path
from urllib.parse import urlsplit

from distributed.security import Security

from westlight.core.errors import WestlightError

VARIABLE = "WESTLIGHT_TLS"
_CERTIFICATE, _KEY = "certificate.pem", "key.pem"


def security_for(address: str) -> Security | None:
    """What a connection to an address needs; None on loopback without a folder of keys.

    Raises `WestlightError` beyond loopback without one, or if the folder lacks a file.
    """
    told = os.environ.get(VARIABLE, "")
    if not told:
        if _is_loopback(address):
            return None
        raise WestlightError(
            f"{address} is beyond this machine, and anybody there could give work to it. Make a certificate with "
            f"“./westlight certificate FOLDER”, copy the folder to every machine, and set {VARIABLE} to it there."
        )
    files = [Path(told) / _CERTIFICATE, Path(told) / _KEY]
    for file in files:
        if not file.is_file():
            raise WestlightError(f"{file} is missing; “./westlight certificate FOLDER” makes it.")
    certificate, key = map(str, files)
    ends = {f"tls_{who}_{what}": value for who in ("scheduler", "worker", "client")
            for what, value in (("cert", certificate), ("key", key))}  # fmt: skip
    return Security(tls_ca_file=certificate, require_encryption=True, **ends)


def make(folder: Path) -> None:
    """Write a new certificate and its key into a folder that only its owner can read.

    Raises `WestlightError` without OpenSSL on the machine.
    """
    folder.mkdir(parents=True, exist_ok=True)
    folder.chmod(0o700)
    command = [
        "openssl", "req", "-x509", "-newkey", "rsa:3072", "-noenc", "-days", "3650", "-subj", "/CN=westlight",
        "-keyout", str(folder / _KEY), "-out", str(folder / _CERTIFICATE),
    ]  # fmt: skip
    try:
        done = subprocess.run(command, capture_output=True, text=True, check=False)
    except FileNotFoundError as error:
        raise WestlightError("OpenSSL is missing. Install it: apt-get install openssl") from error
    if done.returncode:
        raise WestlightError(f"OpenSSL made no certificate: {done.stderr[-300:]}")
    (folder / _KEY).chmod(0o600)


def scheme(security: Security | None) -> str:
    """How addresses begin."""
    return "tcp" if security is None else "tls"


def _is_loopback(address: str) -> bool:
    host = urlsplit(address if "//" in address else f"//{address}").hostname or ""
    return host == "localhost" or host == "::1" or host.startswith("127.")
