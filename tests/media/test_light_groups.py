"""Light told apart by lamps: what files call it (names as renders in use have them, common practice)."""

from pathlib import Path

import numpy as np
import pytest
from foreign import write

from umbrax.media.fastcopies import FastCopies
from umbrax.media.files import inspect
from umbrax.media.finding import find_here
from umbrax.media.roots import Roots

PLANE = np.full((6, 8), 0.25, np.float32)


def kinds(folder: Path, *layers: str, alpha: bool = False) -> dict[str, tuple[str, str | None]]:
    """The kind, and of what it is a part, of each layer of a file; `` is the unnamed picture."""
    letters = "RGBA" if alpha else "RGB"
    channels = {f"{layer}.{letter}".lstrip("."): PLANE for layer in layers for letter in (letters if layer else "RGBA")}
    return {one.name: (one.kind, one.of) for one in inspect(write(folder / "a.exr", channels)).passes}


@pytest.mark.parametrize(
    ("whole", "lamps"),
    [
        ("", ("RGBA_key", "RGBA_fill", "RGBA_default")),
        ("", ("rgb_key", "rgb_fill")),
        ("View.Combined", ("View.Combined_key", "View.Combined_sky")),
        ("beauty", ("beauty_sunLight", "beauty_window")),
        ("", ("lightGroup_key", "lightGroup_fill")),
        ("", ("light_select_1", "light_select_2")),
    ],
)
@pytest.mark.parametrize("alpha", [True, False])
def test_beauties_of_single_lights_are_light_groups(tmp_path: Path, whole: str, lamps: tuple[str, ...], alpha: bool) -> None:
    found = kinds(tmp_path, whole, *lamps, alpha=alpha)
    assert found[whole or "rgba"] == ("beauty", None)
    assert {name: kind for name, (kind, _) in found.items() if name in lamps} == dict.fromkeys(lamps, "light_group")


@pytest.mark.parametrize(
    "others",
    [
        ("beauty_key",),  # one alone may be anything
        ("beauty_denoised", "beauty_noisy"),
        ("Dome.Combined", "Terrace.Combined"),  # pictures of other layers
        ("dome_beauty", "terrace_beauty"),
        ("beauty_left", "beauty_right"),
    ],
)
def test_other_pictures_beside_a_beauty_stay_what_they_are(tmp_path: Path, others: tuple[str, ...]) -> None:
    found = kinds(tmp_path, "", *others)
    assert {kind for kind, _ in found.values()} == {"beauty"}


def test_beauties_that_no_whole_one_stands_beside_stay_beauties(tmp_path: Path) -> None:
    assert {kind for kind, _ in kinds(tmp_path, "RGBA_dome", "RGBA_ground").values()} == {"beauty"}


def test_light_of_a_lamp_beside_all_light_of_its_kind_is_a_part_of_it(tmp_path: Path) -> None:
    found = kinds(tmp_path, "", "diffuse", "diffuse_key", "diffuse_fill", "specular_key", "specular_fill", "diffuse_direct")
    assert found["diffuse"] == ("diffuse", None)
    assert [found[f"diffuse_{lamp}"] for lamp in ("key", "fill", "direct")] == [("diffuse", "key"), ("diffuse", "fill"), ("diffuse", "direct")]
    assert found["specular_key"] == ("specular", None), "there is no specular light of which it would be a part"


@pytest.mark.parametrize("names", [("quay", "quay_beauty_key", "quay_beauty_fill"), ("quay_beauty", "quay_beauty_key", "quay_beauty_fill")])
def test_lamps_in_files_of_their_own_go_with_the_beauty(tmp_path: Path, names: tuple[str, ...]) -> None:
    for name in names:
        for frame in (1, 2):
            write(tmp_path / f"{name}_{frame:04}.exr", dict.fromkeys("RGBA", PLANE))
    (one,) = find_here(tmp_path, FastCopies(tmp_path / "copies"), Roots([tmp_path]))
    assert one.path.name == f"{names[0]}_{{frame:04d}}.exr"
    assert one.whole is not None
    told = {name: placed.found.kind for name, placed in one.whole.placed.items()}
    assert told == {"rgba": "beauty", "beauty_key": "light_group", "beauty_fill": "light_group"}
