"""Where things are on this machine: everything can be set by environment variables."""

import os
from dataclasses import dataclass
from pathlib import Path

PROJECT = Path(__file__).resolve().parents[2]


@dataclass(frozen=True)
class Settings:
    """Folders and limits. `state` holds what can be thrown away or belongs to this machine."""

    state: Path
    media: tuple[Path, ...]
    database: str
    cache_bytes: int
    fast_bytes: int
    memory_bytes: int = 5 << 30  # of the server; a worker takes half
    hosts: frozenset[str] = frozenset()  # names by which the server may be asked, beside those of this computer itself
    https: bool = False  # whether what stands in front of the server is asked over TLS

    @property
    def fast_copies(self) -> Path:
        return self.state / "fast"

    @property
    def demo(self) -> Path:
        return self.state / "demo"

    @property
    def uploads(self) -> Path:
        return self.state / "uploads"

    @property
    def roots(self) -> list[Path]:
        """The folders that pictures may lie in, beside those that were added in the page."""
        return [*self.media, self.uploads, self.demo]

    @property
    def baked(self) -> Path:
        """Mattes written for speed."""
        return self.state / "baked"

    @property
    def renders(self) -> Path:
        return self.state / "renders"


def physical_memory() -> int:
    """What this machine has, in bytes."""
    return os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")


def read_settings() -> Settings:
    """UMBRAX_STATE, UMBRAX_MEDIA (colon-separated), UMBRAX_DATABASE, UMBRAX_MEMORY_BYTES, UMBRAX_CACHE_BYTES, UMBRAX_FAST_BYTES,
    UMBRAX_HOSTS (with commas), UMBRAX_HTTPS (1: a proxy in front speaks TLS)."""
    memory = int(os.environ.get("UMBRAX_MEMORY_BYTES") or min(5 << 30, int(0.45 * physical_memory())))
    state = Path(os.environ.get("UMBRAX_STATE") or PROJECT / "var")
    media = tuple(Path(part) for part in os.environ.get("UMBRAX_MEDIA", "").split(":") if part)
    return Settings(
        state, media,
        os.environ.get("UMBRAX_DATABASE", "postgresql://umbrax@127.0.0.1:54329/umbrax"),
        int(os.environ.get("UMBRAX_CACHE_BYTES") or int(0.6 * memory)), int(os.environ.get("UMBRAX_FAST_BYTES", 12 << 30)), memory,
        frozenset(name.strip().lower() for name in os.environ.get("UMBRAX_HOSTS", "").split(",") if name.strip()),
        os.environ.get("UMBRAX_HTTPS", "") not in ("", "0"),
    )  # fmt: skip
