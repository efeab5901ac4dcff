"""Where other devices find this site: what the federation said, else what the one who asks came by."""

from __future__ import annotations

import ipaddress
from urllib.parse import urlsplit

from sqlalchemy.orm import Session

from bildung.services.shared.settings import setting

ONLY_HERE = (
    "This address works on the serving machine alone: a coordinator sets the address of this site under Settings."
)


def site_address(db: Session, asked_by: str) -> str:
    """asked_by: the address that the request came by."""
    return str(setting(db, "site_address")) or asked_by


def only_here(address: str) -> bool:
    """Whether only the serving machine reaches an address."""
    host = urlsplit(address).hostname or ""
    if host == "localhost" or host.endswith(".localhost"):
        return True
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False


def with_warning(footer: str, address: str) -> str:
    """The footer, with a warning where the address is one that only this machine reaches."""
    return f"{footer}. {ONLY_HERE}" if only_here(address) else footer
