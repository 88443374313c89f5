"""Folders of the server as another machine has them: a worker says by name where it finds each."""

from collections.abc import Mapping
from pathlib import Path

from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError
from umbrax.core.registry import unknown


class FolderMap:
    """Paths of the server, and where they lie here. What is not named lies at the same path."""

    def __init__(self, served: Mapping[str, Path], named: Mapping[str, Path]):
        for name in named:
            if name not in served:
                raise UmbraxError("unknown-folder", unknown("folder", name, list(served)))
        self._to = {served[name]: path.resolve() for name, path in named.items()}
        self.paths = list(served.values())

    def local(self, path: str | Path) -> Path:
        """Where a path of the server lies here; the innermost folder that was named counts."""
        whole = Path(path)
        for parent in (whole, *whole.parents):
            if parent in self._to:
                return self._to[parent] / whole.relative_to(parent)
        return whole

    def localised(self, shot: Shot) -> Shot:
        """A shot whose sources are read from where their files lie here."""
        if not self._to:
            return shot
        sources = {
            name: source.model_copy(
                update={
                    "path": str(self.local(source.path)),
                    "attached": {key: one.model_copy(update={"path": str(self.local(one.path))}) for key, one in source.attached.items()},
                }
            )
            for name, source in shot.sources.items()
        }
        return shot.model_copy(update={"sources": sources})


SAME = FolderMap({}, {})


def folders_named(texts: list[str]) -> dict[str, Path]:
    """Folders as they are told on the command line, each as NAME=PATH."""
    found = {}
    for text in texts:
        name, equals, path = text.partition("=")
        if not (name and equals and path):
            raise UmbraxError("bad-folder", f"cannot read the folder {text!r}; write it as NAME=PATH")
        if not Path(path).is_dir():
            raise UmbraxError("no-folder", f"there is no folder {path!r} on this machine; mount it, or check the path")
        found[name] = Path(path)
    return found
