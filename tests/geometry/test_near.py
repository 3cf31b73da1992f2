"""What is near: by either tree, or none, the same, and as all distances say."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from unkelt.geometry import near
from unkelt.geometry.near import nearest, pairs_between, pairs_within
from unkelt.geometry.region import connected


@given(st.integers(0, 2**32), st.integers(0, 40), st.integers(0, 40), st.sampled_from([2, 3, 4]), st.booleans())
def test_pairs_and_the_nearest_are_those_of_all_distances(seed, count, other, columns, on_a_grid):
    random = np.random.default_rng(seed)
    points, others = random.uniform(0, 1, (count, columns)), random.uniform(0, 1, (other, columns))
    if on_a_grid:  # where many are as far away as is asked for, to the last bit but one
        points, others = np.round(points, 1), np.round(others, 1)
    apart = np.linalg.norm(points[:, None] - others[None], axis=2)
    for handful, by_scipy in ((64, True), (0, False), (0, True)):
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(near, "A_HANDFUL", handful)
            patch.setattr(near, "_worth_scipy", lambda *_, by=by_scipy: by)
            patch.setattr(near, "FEW", 0 if by_scipy else 10_000)
            assert pairs_between(points, others, 0.3).tolist() == np.argwhere(apart <= 0.3).tolist()
            within = np.argwhere(np.linalg.norm(points[:, None] - points[None], axis=2) <= 0.3)
            assert pairs_within(points, 0.3).tolist() == within[within[:, 0] < within[:, 1]].tolist()
            if columns == 2 and count and other and not on_a_grid:  # there, many are the nearest
                away, which = nearest(points, others)
                assert away == pytest.approx(apart.min(axis=1))
                assert apart[np.arange(count), which] == pytest.approx(away)


@pytest.mark.parametrize("count", [1, 2, 50, 4000])
def test_what_pairs_connect_is_one_group_however_they_are_numbered(count):
    """A chain through all in any order is one; two chains that share nothing are two."""
    order = np.random.default_rng(count).permutation(count)
    chain = np.stack([order[:-1], order[1:]], axis=1)
    assert connected(count, chain) == [list(range(count))]
    half = count // 2
    apart = np.concatenate([chain[: max(half - 1, 0)], chain[half:]])
    groups = connected(count, apart)
    assert sorted(map(len, groups)) == sorted(size for size in (half, count - half) if size)
    assert [group[0] for group in groups] == sorted(min(group) for group in groups)
