"""What tests compare arrays with."""

import numpy as np
import pytest

from arrays import assert_near


@pytest.mark.parametrize(
    ("actual", "expected", "tolerance"),
    [
        ([1.0, 2.1], [1.0, 2.0], {"within": 0.05}),
        ([100.2], [100.0], {"relative": 1e-3}),
        ([np.nan], [1.0], {"within": 1e9}),
        ([np.nan], [np.nan], {}),
        ([np.inf], [-np.inf], {"within": 1.0}),
        ([[1.0, 1.0]], [1.0, 1.0], {}),
        (1.0, [1.0, 1.0], {}),
    ],
)
def test_what_is_not_near_fails(actual: object, expected: object, tolerance: dict[str, float]) -> None:
    with pytest.raises(AssertionError):
        assert_near(actual, expected, **tolerance)


def test_what_is_near_passes() -> None:
    assert_near(np.float32([1.0, 2.04, np.inf]), [1.0, 2.0, np.inf], 0.05)
    assert_near([100.05, 1e-7], [100.0, 0.0], 1e-6, relative=1e-3)
