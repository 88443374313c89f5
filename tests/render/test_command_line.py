"""The command line on plain files, with no database or server."""

import json
import shutil
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import OpenEXR
import pytest

from running import command as umbrax
from running import program
from umbrax.core.document.text import read_text
from umbrax.core.views import exact_codes
from umbrax.media.fastcopies import FastCopies
from umbrax.media.finished import finished_light
from umbrax.media.movies import count_frames, decode_frame, inspect_movie
from umbrax.render.engine import Engine, Want


@pytest.fixture(scope="module")
def place(demo: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A copy of the demo that tests may write beside, with its own fast copies."""
    folder = tmp_path_factory.mktemp("work")
    shutil.copytree(demo, folder / "demo")
    return folder


def read_exr(path: Path) -> dict[str, np.ndarray]:
    with OpenEXR.File(str(path), separate_channels=True) as file:
        return {name: channel.pixels for name, channel in file.channels().items()}


def test_a_frame_is_the_engines_picture_bit_for_bit_and_half_is_that_rounded(place: Path) -> None:
    shot_file = place / "demo" / "dome-at-dusk.umbrax.json"
    made = umbrax(
        "render",
        str(shot_file),
        "--frames",
        "1002",
        "--out",
        str(place / "f.{frame:04d}.exr"),
        "--type",
        "float",
        "--json",
        state=place,
    )
    assert made.returncode == 0, made.stderr
    lines = [json.loads(line) for line in made.stdout.splitlines()]
    assert lines[0]["frame"] == 1002
    assert lines[-1] == {"done": 1}
    engine = Engine(FastCopies(place / "fast"))
    picture = engine.make(read_text(shot_file.read_text()), [place / "demo"], 1002, Want()).picture.pixels
    float_file = read_exr(place / "f.1002.exr")
    for index, letter in enumerate("RGBA"):
        assert float_file[letter].dtype == np.float32
        assert np.array_equal(float_file[letter], picture[..., index])
    assert umbrax("render", str(shot_file), "--frames", "1002", "--out", str(place / "h.exr"), state=place).returncode == 0
    half_file = read_exr(place / "h.exr")
    for index, letter in enumerate("RGBA"):
        assert np.array_equal(half_file[letter], picture[..., index].astype(np.float16))


def test_upto_matte_and_scale(place: Path) -> None:
    shot_file = str(place / "demo" / "dome-at-dusk.umbrax.json")
    for words, name in (
        (("--upto", "sky"), "sky"),
        (("--matte", "mast lamps"), "lamps"),
        (("--scale", "1/4"), "small"),
    ):
        made = umbrax("render", shot_file, "--frames", "1001", "--out", str(place / f"{name}.exr"), *words, state=place)
        assert made.returncode == 0, made.stderr
    plate = read_exr(place / "demo" / "plates" / "valley.exr")
    sky = read_exr(place / "sky.exr")
    assert np.array_equal(sky["R"], plate["R"])
    lamps = read_exr(place / "lamps.exr")
    assert list(lamps) == ["Y"]
    assert 0 < lamps["Y"].astype(np.float64).sum() < 2000
    assert read_exr(place / "small.exr")["R"].shape == (180, 320)


def test_passes_and_validate_answer_as_promised(place: Path) -> None:
    found = json.loads(umbrax("passes", str(place / "demo" / "station"), "--json", state=place).stdout)
    assert found["frames"] == [1001, 1003]
    assert found["missing"] == []
    assert found["size"] == [1280, 720]
    assert found["data_window"] == [0, 0, 1280, 720]
    assert all({"name", "kind", "channels", "type", "part", "why"} <= set(p) for p in found["passes"])
    one = json.loads(umbrax("passes", str(place / "demo" / "station" / "station.1001.exr"), "--json", state=place).stdout)
    assert one["frames"] is None
    checked = umbrax("validate", str(place / "demo" / "dome-at-dusk.umbrax.json"), "--json", state=place)
    assert json.loads(checked.stdout)["ok"] is True


PASS_KEYS = {"name", "kind", "channels", "type", "part", "why"}
FINDING_KEYS = {"rule", "source", "pass", "frames", "severity", "measure", "message", "remedy"}


def foreign_sequence(folder: Path) -> Path:
    """Frames that no part of the program wrote: a hole, an opposite shadow, a light without alpha, two ID layers' worth of metadata."""
    folder.mkdir()
    random = np.random.default_rng(5)
    for frame in (7, 8, 10):
        light = random.uniform(0.1, 0.9, (50, 70)).astype(np.float16)
        solid = np.zeros((50, 70), np.float16)
        solid[10:40, 15:55] = 1
        channels = {f"{letter}": light * solid for letter in "RGB"} | {"A": solid}
        channels |= {f"RL.DiffDir.{letter}": light * solid / 2 for letter in "RGB"} | {
            f"RL.Spec.{letter}": light * solid / 2 for letter in "RGB"
        }
        shadow = np.zeros((50, 70), np.float16)
        shadow[40:48, 20:50] = 0.8
        with OpenEXR.File({"compression": OpenEXR.ZIPS_COMPRESSION, "type": OpenEXR.scanlineimage}, channels | {"shadow.R": shadow}) as file:
            file.write(str(folder / f"hut-{frame:03d}.exr"))
    return folder


def test_passes_and_checkup_answer_alike_on_files_never_seen(place: Path) -> None:
    folder = foreign_sequence(place / "foreign")
    told = json.loads(umbrax("passes", str(folder), "--json", state=place).stdout)
    assert (told["frames"], told["missing"], told["size"], told["data_window"]) == ([7, 10], [9], [70, 50], [0, 0, 70, 50])
    assert {entry["name"]: entry["kind"] for entry in told["passes"]} == {
        "rgba": "beauty", "RL.DiffDir": "diffuse", "RL.Spec": "specular", "shadow": "shadow",
    }  # fmt: skip
    assert all(set(entry) >= PASS_KEYS for entry in told["passes"])
    assert told["ids"] == []
    answer = json.loads(umbrax("checkup", str(folder), "--json", state=place).stdout)
    assert all(set(entry) >= FINDING_KEYS for entry in answer["findings"])
    rules = {entry["rule"]: entry for entry in answer["findings"]}
    assert set(rules) == {"frames", "no-alpha", "shadow-polarity"}
    assert rules["frames"]["frames"] == [9]
    assert rules["shadow-polarity"]["remedy"] == {"do": "set", "polarity": "shadow"}
    assert rules["no-alpha"]["frames"] == [7, 8, 10]
    assert [entry["severity"] for entry in answer["findings"]] == sorted(
        (entry["severity"] for entry in answer["findings"]), key=["error", "warning", "note"].index
    )


def test_passes_and_checkup_of_a_folder_put_one_file_per_pass_together(place: Path) -> None:
    folder = place / "by pass"
    for name, shade in (("beauty", 0.5), ("diffuse", 0.3), ("specular", 0.1)):
        for frame in (1, 2, 3)[: 2 if name == "specular" else 3]:
            path = folder / "quay" / name / f"quay_{name}.{frame:04d}.exr"
            path.parent.mkdir(parents=True, exist_ok=True)
            channels = {c: np.full((20, 30), shade if c != "A" else 1.0, np.float16) for c in "RGBA"}
            with OpenEXR.File({"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}, channels) as file:
                file.write(str(path))
    found = json.loads(umbrax("passes", str(folder / "quay"), "--json", state=place).stdout)
    assert {one["name"]: (one["kind"], Path(one["file"]).name) for one in found["passes"]} == {
        "rgba": ("beauty", "quay_beauty.0001.exr"), "diffuse": ("diffuse", "quay_diffuse.0001.exr"),
        "specular": ("specular", "quay_specular.0001.exr"),
    }  # fmt: skip
    assert (found["frames"], found["missing"], found["size"]) == ([1, 3], [], [30, 20])
    assert Path(found["file"]) == folder / "quay" / "beauty" / "quay_beauty.{frame:04d}.exr"
    for target in (folder / "quay", folder):
        told = [(one["rule"], one["source"], one["pass"], one["frames"]) for one in checked(target, place)]
        assert ("frames", "quay", "specular", [3]) in told
        assert any(rule == "sum-residue" and source == "quay" for rule, source, _, _ in told), "0.5 is more than 0.3 and 0.1"
    (folder / "empty").mkdir()
    refused = umbrax("checkup", str(folder / "empty"), "--json", state=place)
    assert (refused.returncode, json.loads(refused.stdout)["error"]["code"]) == (1, "no-sequence")


def checked(target: Path, place: Path) -> list[dict[str, Any]]:
    findings: list[dict[str, Any]] = json.loads(umbrax("checkup", str(target), "--json", state=place).stdout)["findings"]
    return findings


def test_checkup_of_a_shot_reads_its_sources_as_the_shot_says(place: Path) -> None:
    folder = place / "foreign"
    document = {
        "umbrax": 1, "name": "hut", "format": {"width": 70, "height": 50, "first": 7, "last": 10},
        "sources": {"hut": {"path": "hut-{frame:03d}.exr", "missing": "hold", "passes": {"shadow": {"polarity": "shadow"}}}}, "build": [],
    }  # fmt: skip
    (folder / "hut.umbrax.json").write_text(json.dumps(document))
    answer = json.loads(umbrax("checkup", str(folder / "hut.umbrax.json"), "--json", state=place).stdout)
    assert {entry["rule"] for entry in answer["findings"]} == {"no-alpha"}
    plain = umbrax("checkup", str(folder / "hut.umbrax.json"), state=place)
    assert "no-alpha" in plain.stdout
    assert plain.returncode == 0
    gone = umbrax("checkup", str(folder / "none.exr"), "--json", state=place)
    assert gone.returncode == 1
    assert set(json.loads(gone.stdout)["error"]) >= {"code", "message", "card", "frame", "file"}


def test_the_seat_of_a_card_is_told_by_its_name(place: Path) -> None:
    shot = str(place / "demo" / "dome-at-dusk.umbrax.json")
    answers = json.loads(umbrax("seat", shot, "station", "--json", state=place).stdout)
    assert answers["frame"] == 1001
    told = {one["kind"]: one for one in answers["answers"]}
    assert told["blacks"]["sits"] is False
    assert told["blacks"]["remedy"]["treatment"]["kind"] == "tones"
    table = umbrax("seat", shot, "station", "--frame", "1001", state=place)
    assert "look  Blacks: its darkest parts are darker than anything behind it" in table.stdout
    assert len(table.stdout.splitlines()) == 5
    refused = umbrax("seat", shot, "sky", state=place)
    assert refused.returncode == 1
    assert "nothing behind this card" in refused.stderr


def changed(place: Path, name: str, change: Any) -> str:
    data = json.loads((place / "demo" / "dome-at-dusk.umbrax.json").read_text())
    change(data)
    path = place / "demo" / name
    path.write_text(json.dumps(data))
    return str(path)


def test_errors_are_one_line_exit_1_and_leave_no_file(place: Path) -> None:
    shot = str(place / "demo" / "dome-at-dusk.umbrax.json")
    outside = changed(place, "outside.umbrax.json", lambda d: d["sources"]["valley"].update(path="../../../etc/hosts"))
    cycle = changed(
        place,
        "cycle.umbrax.json",
        lambda d: d["mattes"].update(a={"kind": "combined", "how": "any_of", "mattes": ["a"]}),
    )
    unknown = changed(place, "unknown.umbrax.json", lambda d: d["build"][0].update(opcaity=1))
    text = place / "demo" / "station" / "station.1009.exr"
    text.write_text("not a picture")
    out = str(place / "never.exr")
    tries = [
        (["render", shot, "--frames", "1010", "--out", out], "no frame 1010"),
        (["render", shot, "--frames", "1009", "--out", out], "cannot read 'station.1009.exr'"),
        (["render", shot, "--frames", "1-2", "--out", out], "need {frame:04d}"),
        (["render", shot, "--frames", "1001", "--out", out, "--upto", "statoin"], "did you mean 'station'?"),
        (["render", shot, "--frames", "1001", "--out", out, "--matte", "doom"], "did you mean 'dome'?"),
        (["render", shot, "--frames", "1001", "--out", out, "--scale", "1/3"], "1/2, 1/4 or 1/8"),
        (["render", outside, "--frames", "1001", "--out", out], "outside the media folders"),
        (["validate", cycle], "a -> a"),
        (["validate", unknown], "build.0.opcaity: unknown key"),
        (["validate", str(place / "nowhere.json")], "there is no file"),
        (["passes", str(place / "nowhere.exr")], "there is no file"),
        (["render", "--nonsense"], "nonsense"),
    ]
    for words, says in tries:
        made = umbrax(*words, state=place)
        assert made.returncode == 1, words
        assert says in made.stderr
        assert made.stderr.strip().count("\n") == 0, made.stderr
        assert "Traceback" not in made.stderr + made.stdout
    here, there = (run(*tries[0][0], state=place) for run in (umbrax, program))
    assert (there.returncode, there.stdout, there.stderr) == (here.returncode, here.stdout, here.stderr)
    assert not Path(out).exists()
    assert not list(place.glob(".never*"))
    for words in (["render", shot], ["nonsense"], ["passes", "--frames"]):
        assert json.loads(umbrax(*words, "--json", state=place).stdout)["error"]["code"] == "bad-command"
    told = json.loads(umbrax("render", shot, "--frames", "1010", "--out", out, "--json", state=place).stdout)["error"]
    assert told["code"] == "missing-frame"
    assert told["frame"] == 1010
    assert told["card"] == "shadow"


def test_what_a_source_lost_is_said_and_the_frame_is_rendered_without(place: Path) -> None:
    """A light, a matte's name and a card's pass that are not in the file: told before the first frame, in words and as data."""
    document = json.loads((place / "demo" / "dome-at-dusk.umbrax.json").read_text())
    whole = place / "demo" / "whole.umbrax.json"
    lost = place / "demo" / "lost.umbrax.json"
    station = next(card for card in document["build"] if card["id"] == "station")
    station["picture"]["lights"] |= {"bounce": {"gain": 1.5}}
    document["mattes"]["gone"] = {"kind": "id", "source": "station", "layer": "object_ids", "names": ["roof_garden"]}
    glow = {"id": "glow", "picture": {"kind": "pass", "source": "station", "pass": "neon"}, "join": "plus"}
    document["build"].append(glow)
    lost.write_text(json.dumps(document))
    whole.write_text((place / "demo" / "dome-at-dusk.umbrax.json").read_text())
    for shot in (lost, whole):
        made = umbrax(
            "render", str(shot), "--frames", "1001", "--scale", "1/4", "--out", str(place / f"{shot.stem}.exr"), "--json", state=place
        )
        assert made.returncode == 0, made.stderr
        if shot == lost:
            told = json.loads(made.stdout.splitlines()[-1])["lost"]
            assert {(one["noun"], one["name"]) for one in told} == {("light", "bounce"), ("pass", "neon"), ("name", "roof_garden")}
            assert "the light 'bounce' is not in 'station'" in made.stderr
    with_it, without = (read_exr(place / f"{shot.stem}.exr") for shot in (lost, whole))
    for letter in "RGBA":
        assert np.array_equal(with_it[letter], without[letter])


def test_frames_in_other_primaries_come_back_as_the_same_light(place: Path) -> None:
    shot = str(place / "demo" / "dome-at-dusk.umbrax.json")
    told = ("--frames", "1001", "--scale", "1/2", "--type", "float")
    for space in ("lin_rec709", "lin_ap1"):
        made = umbrax("render", shot, *told, "--space", space, "--out", str(place / f"{space}.exr"), state=place)
        assert made.returncode == 0, made.stderr
        listed = json.loads(umbrax("passes", str(place / f"{space}.exr"), "--json", state=place).stdout)
        assert listed["primaries"] == space
    assert np.abs(finished_light(place / "lin_ap1.exr") - finished_light(place / "lin_rec709.exr")).max() < 1e-4
    stored, light = read_exr(place / "lin_ap1.exr"), read_exr(place / "lin_rec709.exr")
    assert max(float(np.abs(stored[letter] - light[letter]).max()) for letter in "RGB") > 0.05
    refused = umbrax("render", shot, *told[:4], "--space", "lin_ap1", "--out", str(place / "no.png"), state=place)
    assert refused.returncode == 1
    assert "has no place for 'lin_ap1'" in refused.stderr


def test_png_and_movies_get_the_view_of_the_shot_or_another_one(place: Path) -> None:
    document = json.loads((place / "demo" / "dome-at-dusk.umbrax.json").read_text())
    document["colour"] = {"view": "aces"}
    shot = place / "demo" / "rolled.umbrax.json"
    shot.write_text(json.dumps(document))
    seen = {}
    for name, told in (("own.png", ()), ("other.png", ("--view", "srgb")), ("own.mov", ())):
        made = umbrax("render", str(shot), "--frames", "1001", "--scale", "1/2", "--out", str(place / name), *told, state=place)
        assert made.returncode == 0, made.stderr
    for name in ("own.png", "other.png"):
        seen[name] = cv2.imread(str(place / name), cv2.IMREAD_UNCHANGED)[..., 2::-1].astype(int)
    light = Engine(FastCopies(place / "fast")).make(read_text(shot.read_text()), [place / "demo"], 1001, Want(), scale=2).picture.pixels
    assert np.array_equal(seen["own.png"], exact_codes(light[..., :3], 255, "aces"))
    assert np.array_equal(seen["other.png"], exact_codes(light[..., :3], 255, "srgb"))
    film = np.stack(decode_frame(inspect_movie(place / "own.mov", 1)), axis=2) / 257
    assert np.abs(film - seen["own.png"]).mean() < 1
    refused = umbrax("render", str(shot), "--out", str(place / "x.png"), "--view", "neon", state=place)
    assert (refused.returncode, "use srgb or aces" in refused.stderr) == (1, True)


def test_a_shot_is_rendered_straight_into_a_movie(place: Path) -> None:
    shot = str(place / "demo" / "dome-at-dusk.umbrax.json")
    out = place / "dome.mov"
    made = umbrax("render", shot, "--frames", "1001-1003", "--scale", "1/2", "--out", str(out), "--json", state=place)
    assert made.returncode == 0, made.stderr
    lines = [json.loads(line) for line in made.stdout.splitlines()]
    assert [line.get("frame") for line in lines] == [1001, 1002, 1003, None]
    assert {line["file"] for line in lines[:3]} == {str(out)}
    assert count_frames(out) == 3
    umbrax("render", shot, "--frames", "1003", "--scale", "1/2", "--out", str(place / "half.png"), "--type", "16", state=place)
    still = cv2.imread(str(place / "half.png"), cv2.IMREAD_UNCHANGED)[..., 2::-1]
    found = np.stack(decode_frame(inspect_movie(out, 3)), axis=2)
    assert found.shape == still.shape
    assert np.abs(found.astype(float) - still).mean() / 257 < 1
    for name, type_, told in (("a.{frame:04d}.mp4", None, "a movie is one file"), ("a.mov", "half", "use prores_422 or prores_4444")):
        refused = umbrax("render", shot, "--out", str(place / name), *(("--type", type_) if type_ else ()), state=place)
        assert refused.returncode == 1
        assert told in refused.stderr
    assert not list(place.glob("a.*"))


def test_an_error_of_a_frame_names_the_treatment_and_no_id(place: Path) -> None:
    document = json.loads((place / "demo" / "dome-at-dusk.umbrax.json").read_text())
    station = next(card for card in document["build"] if card["id"] == "station")
    station["name"] = "The dome"
    alpha = {"kind": "channel", "source": "station", "pass": "depth", "channel": "alpha"}
    document["mattes"]["no alpha"] = alpha
    station["treatments"].append({"id": "t77", "kind": "grade", "name": "Warmer", "exposure": 1.0, "through": "no alpha"})
    broken = place / "demo" / "broken.umbrax.json"
    broken.write_text(json.dumps(document))
    made = umbrax("render", str(broken), "--frames", "1001", "--scale", "1/8", "--out", str(place / "broken.exr"), state=place)
    assert made.returncode == 1
    assert "The dome" in made.stderr
    assert "Warmer" in made.stderr
    assert "t77" not in made.stderr
