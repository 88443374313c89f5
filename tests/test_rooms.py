"""The house: rooms one can find one's way in, lines of docs for all that is registered."""

from pathlib import Path

import grimp

from umbrax.core.joins import JOINS
from umbrax.core.treatments import TREATMENTS

ROOT = Path(__file__).parent.parent
CORE = ROOT / "src/umbrax/core"
LOOSE = {"__init__", "colour", "errors", "picture", "registry"}  # what every room uses


def test_no_file_of_the_core_is_longer_than_it_should_be() -> None:
    long = {str(path.relative_to(CORE)): lines for path in CORE.rglob("*.py") if (lines := len(path.read_text().splitlines())) > 250}
    assert not long
    assert {path.stem for path in CORE.glob("*.py")} == LOOSE


def test_no_file_imports_in_a_circle() -> None:
    graph = grimp.build_graph("umbrax", include_external_packages=False, exclude_type_checking_imports=False)
    modules = sorted(graph.modules)
    done: set[str] = set()
    for start in modules:
        path, ways = [start], [iter(sorted(graph.find_modules_directly_imported_by(start)))]
        while ways:
            following = next(ways[-1], None)
            if following is None:
                done.add(path.pop())
                ways.pop()
            elif following in path:
                # a package's own page names its modules, and they may name the package
                circle = path[path.index(following) :]
                assert all(one.startswith(following) or following.startswith(one) for one in circle), " -> ".join([*circle, following])
            elif following not in done:
                path.append(following)
                ways.append(iter(sorted(graph.find_modules_directly_imported_by(following))))


def test_every_treatment_and_join_has_its_line_in_the_guide() -> None:
    text = (ROOT / "docs/guide/treatments.md").read_text()
    assert [kind for kind in TREATMENTS.kinds() if f"| `{kind}` | {TREATMENTS.get(kind).stage} |" not in text] == []
    joins = (ROOT / "docs/guide/joins.md").read_text()
    assert [kind for kind in JOINS.kinds() if f"| `{kind}` |" not in joins] == []
