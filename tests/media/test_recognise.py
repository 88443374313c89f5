"""Recognition of pass kinds by name: any prefix, separator and case (the names are common practice of many renderers)."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from umbrax.media.recognise import kinds_of_ids, recognise, words_of

RGB, RGBA, ONE = ("R", "G", "B"), ("R", "G", "B", "A"), ("V",)
NAMES = [
    ("", RGBA, "beauty"), ("rgba", RGBA, "beauty"), ("ViewLayer.Combined", RGBA, "beauty"), ("main_beauty", RGB, "beauty"),
    ("diffuse", RGB, "diffuse"), ("ViewLayer.DiffDir", RGB, "diffuse"), ("GI", RGB, "diffuse"), ("direct_diffuse", RGB, "diffuse"),
    ("specular_indirect", RGB, "specular"), ("GlossDir", RGB, "specular"), ("spec", RGB, "specular"),
    ("Reflection", RGB, "reflection"), ("REFL", RGB, "reflection"), ("transmission", RGB, "refraction"), ("refract_01", RGB, "refraction"),
    ("selfIllumination", RGB, "emission"), ("Emit", RGB, "emission"), ("SSS", RGB, "subsurface"), ("subsurface_direct", RGB, "subsurface"),
    ("volume", RGB, "volume"), ("clearcoat", RGB, "coat"), ("coat_indirect", RGB, "coat"), ("sheen", RGB, "sheen"),
    ("ambient", RGB, "ambient"), ("env", RGB, "ambient"), ("AO", RGB, "occlusion"), ("ambient_occlusion", RGB, "occlusion"),
    ("shadow", RGB, "shadow"), ("Shadow Catcher", RGB, "shadow"), ("Z", ONE, "depth"), ("zDepth", ONE, "depth"), ("cam.depth", ONE, "depth"),
    ("P_world", RGB, "other"), ("worldPos", RGB, "position"), ("Position", RGB, "position"), ("N", RGB, "normal"), ("normals", RGB, "normal"),
    ("motionVector", RGB, "motion"), ("velocity", RGB, "motion"), ("UV", RGB, "uv"), ("IndexOB", ONE, "object_index"),
    ("indexMA", ONE, "material_index"), ("albedo", RGB, "surface_colour"), ("diffuse_filter", RGB, "surface_colour"),
    ("masks", RGB, "rgb_matte"), ("masks", ONE, "single_matte"), ("objindex", ONE, "object_index"), ("matIndex", ONE, "material_index"),
    ("Grün", RGB, "other"), ("Schön", RGB, "other"), ("grün.n", RGB, "normal"),
    ("DiffCol", RGB, "surface_colour"), ("multiMatte", RGB, "rgb_matte"), ("lantern_mask", ONE, "single_matte"),
    ("coverage", ONE, "coverage"), ("ink", RGBA, "line"), ("toon_line", RGBA, "line"), ("mystery", RGB, "other"), ("C1", RGB, "other"),
]  # fmt: skip


@pytest.mark.parametrize(("name", "channels", "kind"), NAMES)
def test_names_in_use_are_recognised(name: str, channels: tuple[str, ...], kind: str) -> None:
    found = recognise(name, channels)
    assert found.kind == kind
    assert found.why


CLEAR = ["beauty", "diffuse", "specular", "reflection", "refraction", "emission", "subsurface", "volume", "shadow", "depth", "normal"]


@given(
    st.sampled_from(CLEAR), st.sampled_from(["", "ViewLayer", "RL01", "cam", "Scene"]), st.sampled_from([".", "_", "-", " "]),
    st.sampled_from([str.lower, str.upper, str.title]), st.sampled_from(["", "_01", ".001"]),
)  # fmt: skip
def test_prefix_separator_case_and_number_do_not_matter(kind: str, prefix: str, separator: str, case, number: str) -> None:  # type: ignore[no-untyped-def]
    name = f"{prefix}{separator if prefix else ''}{case(kind)}{number}"
    assert recognise(name, RGB).kind == kind


@given(st.text(max_size=40))
def test_any_name_is_answered_with_a_reason(name: str) -> None:
    found = recognise(name, RGB)
    assert found.kind
    assert found.why
    assert all(word.isalnum() and word == word.lower() for word in words_of(name))


@pytest.mark.parametrize(
    ("name", "of"), [("diffuse_direct", "direct"), ("DiffInd", "indirect"), ("specular_bounce", "indirect"), ("spec", None)]
)
def test_direct_and_indirect_lights_are_told_apart(name: str, of: str | None) -> None:
    assert recognise(name, RGB).of == of


def test_whole_numbers_with_an_index_like_name_are_an_index() -> None:
    assert recognise("object_id", ("Y",), ("uint",)).kind == "object_index"
    assert recognise("material_id", ("Y",), ("u16",)).kind == "material_index"
    assert recognise("object_id", ("Y",), ("half",)).kind == "other"


@pytest.mark.parametrize(
    ("layers", "kinds"),
    [
        ({"View.CryptoObject": None, "View.CryptoMaterial": None, "View.CryptoAsset": None}, ["object", "material", "asset"]),
        ({"mtl_ids": None, "objID": None}, ["material", "object"]),
        ({"stoff": ["a", "b"], "objekt": ["a", "b", "c"]}, ["material", "object"]),
        ({"first": None, "second": None, "third": None}, ["object", "material", "other"]),
        ({"MaterialIds": None, "ids": None}, ["material", "object"]),
        ({"asset_ids": None}, ["asset"]),
        ({"matte": None}, ["object"]),
    ],
)
def test_what_id_layers_tell_apart(layers: dict[str, list[str] | None], kinds: list[str]) -> None:
    assert [kinds_of_ids(list(layers.items()))[name] for name in layers] == kinds
