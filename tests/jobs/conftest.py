"""What the tests of the worker share."""

from pathlib import Path

import pytest
from one_worker import Hands

from umbrax.store.database import Database


@pytest.fixture
def hands(database: Database, database_address: str, tmp_path: Path, demo: Path) -> Hands:
    return Hands(database, database_address, tmp_path, demo)
