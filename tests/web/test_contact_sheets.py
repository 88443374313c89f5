"""Trays as one picture: every pass of a frame, or every matte, where the contents say."""

from pathlib import Path

import cv2
import numpy as np
from bench_client import Bench, picture

from umbrax.settings import Settings


def contents(bench: Bench) -> dict:  # type: ignore[type-arg]
    return bench.client.get(f"/api/shots/{bench.shot_id}/contents?revision={bench.state()['revision']}&frame=1001").get_json()


def sheet(bench: Bench, part: str, **headers: str):  # type: ignore[no-untyped-def]
    now = contents(bench)
    query = f"revision={now['revision']}&frame=1001&part={part}&key={now['sheets'][part]}"
    return bench.client.get(f"/api/shots/{bench.shot_id}/sheet?{query}", headers=headers)


def tile(answer, number: int) -> np.ndarray:  # type: ignore[no-untyped-def]
    y, x = divmod(number, int(answer.headers["X-Columns"]))
    return picture(answer)[y * 90 : y * 90 + 90, x * 160 : x * 160 + 160]


def test_a_contact_sheet_shows_every_pass_where_the_contents_say(bench: Bench) -> None:
    looks = []
    for source in contents(bench)["sources"]:
        looks += [{"kind": "pass", "source": source["name"], "name": p["name"]} for p in source["passes"]]
        looks += [{"kind": "ids", "source": source["name"], "name": p["name"]} for p in source["ids"]]
    answer = sheet(bench, "passes")
    assert picture(answer).shape == (90 * int(answer.headers["X-Rows"]), 160 * int(answer.headers["X-Columns"]), 3)
    assert len(looks) > 12
    for number in (0, 3, len(looks) - 1):
        assert np.abs(tile(answer, number) - picture(bench.look(scale=8, **looks[number]))).mean() < 3, looks[number]
    assert sheet(bench, "passes", **{"If-None-Match": answer.headers["ETag"]}).status_code == 304


def test_a_tile_comes_close_to_a_small_matte_and_shows_a_large_one_whole(bench: Bench) -> None:
    bench.edit(["mattes", "dome"], {"kind": "alpha", "source": "station"})
    names = [one["id"] for one in contents(bench)["mattes"]]
    whole = picture(sheet(bench, "mattes"))
    tiles = {name: whole[:, 160 * number : 160 * number + 160] for number, name in enumerate(names)}
    assert np.abs(tiles["dome"] - picture(bench.look(scale=8, kind="matte", name="dome"))).mean() < 3
    far = picture(bench.look(scale=8, kind="matte", name="mast lamps"))
    near = tiles["mast lamps"]
    assert near.mean() > 10 * far.mean(), "four times closer is sixteen times the area"
    full = picture(bench.look(scale=2, kind="matte", name="mast lamps"))
    fit = cv2.matchTemplate(full.astype(np.uint8), near.astype(np.uint8), cv2.TM_SQDIFF)
    _, _, (x, y), _ = cv2.minMaxLoc(fit)
    assert np.abs(full[y : y + 90, x : x + 160] - near).mean() < 2, "it is a part of the picture at half size"


def test_contact_sheets_change_only_with_what_they_show(bench: Bench) -> None:
    before = contents(bench)["sheets"]
    bench.edit(["build", "finish", "enabled"], False)
    assert contents(bench)["sheets"] == before
    bench.edit(["mattes", "dome", "names"], ["mast_2_lamp"])
    after = contents(bench)["sheets"]
    assert after["passes"] == before["passes"]
    assert after["mattes"] != before["mattes"]


def first_tile_of(bench: Bench, source: str) -> np.ndarray:
    sources = contents(bench)["sources"]
    before = sources[: [one["name"] for one in sources].index(source)]
    return tile(sheet(bench, "passes"), sum(len(one["passes"]) + len(one["ids"]) for one in before))


def test_of_a_file_that_cannot_be_read_tiles_are_crossed_out_and_the_others_shown(bench: Bench, settings: Settings, demo: Path) -> None:
    whole = first_tile_of(bench, "station")
    folder = settings.uploads / "half a frame"
    folder.mkdir(parents=True)
    rendered = (demo / "station" / "station.1001.exr").read_bytes()
    (folder / "cut.exr").write_bytes(rendered[: len(rendered) // 2])
    bench.edit(["sources", "cut"], {"path": str(folder / "cut.exr")})
    assert sheet(bench, "passes").cache_control.no_store, "it may be there at the next look"
    lost = first_tile_of(bench, "cut")
    assert (lost[40:50, 75:85].max() > 70, np.abs(lost[40:50, 5:60] - 30).max() < 8) == (True, True), "the lines cross in the middle"
    assert np.abs(first_tile_of(bench, "station") - whole).mean() < 3
