"""What the environment may set; all of it has a default that the start command provides."""

from __future__ import annotations

from pathlib import Path
from urllib.parse import urlsplit

from pydantic_settings import BaseSettings, SettingsConfigDict

PAGES = Path(__file__).resolve().parent / "pages"
"""The built pages, where they came in one file with the server; else they are built beside it."""
LOOPBACK = ("127.0.0.1", "localhost", "[::1]")


class Settings(BaseSettings):
    """Read from variables that begin with JUTREL_."""

    model_config = SettingsConfigDict(env_prefix="JUTREL_")

    database_url: str = "postgresql+psycopg://jutrel@127.0.0.1:54610/jutrel"
    owner_url: str = ""
    """The database as its owner, for `jutrel migrate`; empty: as it is served."""
    web_folder: Path = PAGES if PAGES.exists() else Path(__file__).resolve().parents[2] / "web" / "dist"
    site: str = ""
    """Which site a command is about, where there are several; empty: the only one, or each of them."""
    texts: Path | None = None
    """A folder of languages of the site's own, each in a folder named by its code."""
    session_hours: float = 14.0
    secure_cookie: bool = False
    """Set where the site is served over TLS; so it is where the public address begins with https."""
    public_address: str = ""
    """Where people reach the site, such as https://yard.example; then no other host is answered. Empty: any is."""
    backup_stamp: Path | None = None
    """A file that every good backup touches, for `jutrel check`."""
    key_file: Path | None = None
    """A file that encrypts the site's own key, apart from database and backups; None: the key lies open in both."""
    beside_s: float = 6.0
    """How long one piece of work beside the server may take (a picture, a record on paper, a plan): more on a slow
    machine."""
    company_name: str = "your company"
    """What people call their company's own sign-in, on the button that leads there."""
    company_issuer: str = ""
    """Who vouches for people there (OpenID Connect), such as https://in.company.example; empty: nobody."""
    company_client: str = ""
    """By what that knows this server."""
    company_secret: str = ""
    """With what this server shows itself there; empty: by PKCE alone."""
    warm: bool = False
    """Have the processes beside the server there before they are needed; `jutrel serve` does."""
    device_key: str = ""
    """What real devices show when they tell a figure; empty: none may."""
    panel_stale_s: float = 5.0
    """What a machine told longer ago than this is told as unknown."""
    demo_pin: str = ""
    """Everyone's PIN in a demo, said on the sign-in page; empty: this is no demo."""

    @property
    def over_tls(self) -> bool:
        """Whether people reach it over TLS: then the cookie goes over nothing else."""
        return self.secure_cookie or self.public_address.startswith("https://")

    @property
    def hosts(self) -> frozenset[str]:
        """The hosts that are answered; empty: any. Loopback always is, for whoever looks after the machine."""
        if not self.public_address:
            return frozenset()
        return frozenset({urlsplit(self.public_address).netloc.lower(), *LOOPBACK})
