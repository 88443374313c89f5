"""The program runs with what requirements/main.txt brings and nothing else."""

import os
import subprocess
import venv
from pathlib import Path

PROJECT = Path(__file__).parents[1]
EVERY_MODULE = """
import importlib, pkgutil, umbrax
names = [module.name for module in pkgutil.walk_packages(umbrax.__path__, "umbrax.")]
for name in names:
    importlib.import_module(name)
print(len(names))
"""
DEMO = """
import pathlib, sys
from umbrax.standin.demo import write_demo
write_demo(pathlib.Path(sys.argv[1]), frames=[1001])
"""


def test_every_module_and_a_demo_frame_need_nothing_of_the_tests(tmp_path: Path) -> None:
    venv.create(tmp_path / "env", with_pip=True)
    python = str(tmp_path / "env" / "bin" / "python")
    locked = str(PROJECT / "requirements" / "main.txt")
    subprocess.run([python, "-m", "pip", "-q", "install", "--no-compile", "--require-hashes", "-r", locked], check=True, timeout=240)

    def run(*words: str) -> str:
        # compiled kernels are those of this project's own source, which both environments share
        environment = os.environ | {"PYTHONPATH": str(PROJECT / "src"), "UMBRAX_STATE": str(tmp_path)}
        environment.pop("VIRTUAL_ENV", None)
        result = subprocess.run([python, *words], capture_output=True, text=True, env=environment, check=False, timeout=240)
        assert result.returncode == 0, result.stderr
        return result.stdout

    assert int(run("-c", EVERY_MODULE)) > 150
    run("-c", DEMO, str(tmp_path / "demo"))
    assert (tmp_path / "demo" / "station" / "station.1001.exr").stat().st_size > 1_000_000
    assert (tmp_path / "demo" / "plates" / "paper.png").exists()
