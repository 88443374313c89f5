"""The typefaces that text is set in: Debian's packages, which bin/setup installs, so that nothing is fetched later."""

from functools import lru_cache
from pathlib import Path

from umbrax.core.errors import UmbraxError

FONTS = Path("/usr/share/fonts")
# where Debian puts them; the last one of each is there on nearly every machine
FILES = {
    "sans": ("opentype/inter/Inter-Regular.otf", "truetype/dejavu/DejaVuSans.ttf"),
    "sans_bold": ("opentype/inter/Inter-SemiBold.otf", "truetype/dejavu/DejaVuSans-Bold.ttf"),
    "serif": ("opentype/ebgaramond/EBGaramond12-Regular.otf", "truetype/dejavu/DejaVuSerif.ttf"),
    "mono": ("truetype/dejavu/DejaVuSansMono.ttf",),
}


@lru_cache(maxsize=len(FILES))
def typeface(name: str) -> bytes:
    """The font file of a typeface."""
    for file in FILES[name]:
        if (FONTS / file).is_file():
            return (FONTS / file).read_bytes()
    raise UmbraxError("no-typeface", f"the typeface {name!r} is not on this machine; run bin/setup")
