"""One file per pass: which files share their name but for the pass they hold."""

import re
from collections.abc import Collection, Iterable
from pathlib import Path

from umbrax.core.document.edits import fresh_id

from .recognise import kind_of_ids, recognise, tells_of_ids, words_of

FIELD_AND_ENDING = re.compile(r"[._-]?\{frame[^}]*\}|\.\w+\Z")
SEPARATOR = re.compile(r"[._\- ]+")
WHOLE_PICTURE = re.compile(r"(.+)[._\- ]+(?:beauty|combined)", re.IGNORECASE)
VERSION = re.compile(r"v\d+", re.IGNORECASE)
VERSION_WORD = re.compile(r"[._\- ]+v\d+(?![^._\- ])", re.IGNORECASE)


def passes_by_name(paths: Iterable[Path]) -> dict[str, dict[Path, str]]:
    """For each common name the files that have it, with the name of the pass in each; only where there are several.

    `station_diffuse.{frame}.exr` and `station_shadow.{frame}.exr` share `station`, and so do `diffuse/station.{frame}.exr` and
    `shadow/station.{frame}.exr`; `station/diffuse/diffuse.{frame}.exr` and `station/shadow/shadow.{frame}.exr` share their folder. What is
    left of a name must tell of a pass in two of them, and the others follow.
    """
    paths = list(paths)
    # `fog_beauty` and `fog_depth` are passes of fog, where `diffuse_direct` and `diffuse_indirect` are both of something else
    elements = {match[1] for path in paths if (match := WHOLE_PICTURE.fullmatch(_without_frame(path)))}
    splits = {path: _splits(path, elements) for path in paths}
    told: dict[str, set[str]] = {}
    for path, own in splits.items():
        for prefix, rest in own.items():
            if rest and tells_of_a_pass(rest):
                told.setdefault(prefix, set()).add(str(path))
    whole = {prefix for own in splits.values() for prefix, rest in own.items() if not rest}
    groups: dict[str, dict[Path, str]] = {}
    for path, own in splits.items():
        # the longest common name that says of two files what they hold, or of one beside the file that has just this name
        fitting = [prefix for prefix in own if len(told.get(prefix, ())) >= (1 if prefix in whole else 2)]
        if fitting:
            prefix = max(fitting, key=len)
            groups.setdefault(prefix, {})[path] = own[prefix]
    return {prefix: _unique(members) for prefix, members in groups.items() if len(members) > 1}


def main_of(members: dict[Path, str]) -> Path:
    """The file the others are attached to: the one without a pass name, else the beauty, else the first."""

    def order(path: Path) -> tuple[bool, bool, int, Path]:
        name = members[path]
        return bool(name), recognise(name, ()).kind != "beauty", len(words_of(name)), path  # `beauty` before `beauty_key`

    return min(members, key=order)


def _without_frame(path: Path) -> str:
    return FIELD_AND_ENDING.sub("", path.name.removesuffix(path.suffix))


def _splits(path: Path, elements: Collection[str]) -> dict[str, str]:
    """Every way to part a name into what is common, its version with it, and what tells of the pass; folders named after a pass count as
    well, also where those of versions lie in them. `elements` are common names although they could be those of passes."""
    folder, version = path.parent, ""
    if VERSION.fullmatch(folder.name) and tells_of_a_pass(folder.parent.name):
        folder, version = folder.parent, folder.name
    by_pass = tells_of_a_pass(folder.name)
    name = _without_frame(path) or folder.name
    words = [word for word in SEPARATOR.split(name) if word]
    found = {name: ""}
    for place in range(1, len(words)):
        rest = SEPARATOR.split(name, maxsplit=place)[-1]
        common, told = name[: len(name) - len(rest)].rstrip("._- "), VERSION_WORD.sub("", rest)
        # other versions are other sources
        if not VERSION.match(rest) and (common in elements or not _begins_a_pass(words[place - 1], rest)):
            found[_of_version(common, *VERSION_WORD.findall(rest))] = told
    if len(found) == 1 and tells_of_a_pass(name):
        holder = folder.parent if by_pass else folder
        holder_name = _of_version(holder.parent.name, holder.name) if VERSION.fullmatch(holder.name) else holder.name
        return {_of_version(holder_name, version): VERSION_WORD.sub("", name)}
    if by_pass:
        found = {_of_version(prefix, version): rest or folder.name for prefix, rest in found.items()}
    return found


def _of_version(name: str, *versions: str) -> str:
    """A name with versions after it that it does not say itself."""
    for version in (one.strip("._- ") for one in versions):
        if version and version not in SEPARATOR.split(name):
            name = f"{name}_{version}"
    return name


def _begins_a_pass(word: str, rest: str) -> bool:
    """`diffuse` of `diffuse_direct`, `object` of `object_ids00`: they belong to the name of the pass."""
    return tells_of_a_pass(word) or (tells_of_ids(rest) and kind_of_ids(word) is not None)


def tells_of_a_pass(rest: str) -> bool:
    return recognise(rest, ()).kind != "other" or tells_of_ids(rest)


def _unique(members: dict[Path, str]) -> dict[Path, str]:
    result: dict[Path, str] = {}
    for path, rest in members.items():
        result[path] = fresh_id(result.values(), rest)
    return result
