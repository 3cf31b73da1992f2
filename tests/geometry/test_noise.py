"""Noisy polylines: the noise is told from the shape, and what comes back has the shape's corners and about its
nodes.
"""

import numpy as np
import pytest

from tests.builders import circle, glyph_paths, moved, square
from unkelt.geometry.distance import line_distance
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import end_tangents
from unkelt.geometry.path import Path, concat, polygon
from unkelt.geometry.reduce import noise
from unkelt.geometry.reduce.noise import noise_mm, noise_within
from unkelt.geometry.reduce.reduce import reduce_nodes

SIGMA, TOLERANCE = 0.01, 0.05


def traced(path: Path, sigma: float = SIGMA, seed: int = 1) -> Path:
    """As polylines with 0.005 mm chord error, each coordinate of each vertex off by so much (normal distribution)."""
    random = np.random.default_rng(seed)
    rings = [np.array(ring.coords)[:-1] for ring in lines(path, 0.005).geoms]
    return concat([polygon(*map(tuple, ring + random.normal(0, sigma, ring.shape))) for ring in rings])


def corners(path: Path) -> int:
    """Nodes at which the line turns by more than 25°: less may be the noise's."""
    count = 0
    for subpath in path.subpaths():
        start, end = end_tangents(subpath)
        before = np.roll(end, 1, axis=0)
        turn = np.arctan2(before[:, 0] * start[:, 1] - before[:, 1] * start[:, 0], (before * start).sum(axis=1))
        count += int((np.abs(turn) > np.radians(25)).sum())
    return count


@pytest.mark.parametrize("sigma", [0.002, 0.01, 0.03])
def test_the_noise_of_a_letter_is_told(sigma):
    outline = glyph_paths("S", "Pacifico", 70)[0]
    assert noise_mm(traced(outline, sigma)) == pytest.approx(sigma, rel=0.35)
    assert noise_mm(traced(outline, 0.0)) < 0.0005


def test_what_is_shape_is_not_noise():
    teeth = polygon(*((0.5 * k, 0.2 * (k % 2)) for k in range(60)), (30.0, 10.0), (0.0, 10.0))
    steps = polygon(*((0.5 * (k // 2), 0.5 * ((k + 1) // 2)) for k in range(60)), (0.0, 15.0))
    for clean in (circle(10), traced(circle(10), 0.0), teeth, steps, square(10)):
        assert noise_within(clean, TOLERANCE) == 0.0
        assert noise_within(clean, 0.01) == 0.0


def test_the_corners_of_a_noisy_square_are_four_wherever_it_starts():
    edge = np.linspace(0, 20, 50, endpoint=False)
    ring = np.concatenate(
        [
            np.stack(side, axis=1)
            for side in ((edge, 0 * edge), (0 * edge + 20, edge), (20 - edge, 0 * edge + 20), (0 * edge, 20 - edge))
        ]
    )
    ring += np.random.default_rng(2).normal(0, SIGMA, ring.shape)
    for start in (0, 25, 49, 117):
        path = polygon(*map(tuple, np.roll(ring, -start, axis=0)))
        sigma = noise_within(path, TOLERANCE)
        corner = noise.corners(path, sigma)
        into, out_of = noise.directions(path, sigma, corner)
        assert sorted((np.flatnonzero(corner) + start) % 200) == [0, 50, 100, 150]
        assert np.abs(np.abs(into).max(axis=1) - 1).max() < 0.002  # within 3.6° of level or plumb
        assert np.abs(np.abs(out_of).max(axis=1) - 1).max() < 0.002


@pytest.mark.parametrize(
    ("word", "family"), [("Kit", "Pacifico"), ("wake", "Dancing Script"), ("BERTH", "Alfa Slab One")]
)
def test_traced_letters_come_back_with_their_corners(word, family):
    """The bound is measured against the noisy line; the drawn one lies nearer than that and a few standard
    deviations.
    """
    for index, path in enumerate(glyph_paths(word, family, 70)):
        noisy = traced(moved(path, 0.3, 0.7), seed=index)
        reduced = reduce_nodes(noisy, TOLERANCE)
        assert reduced.bound_mm <= TOLERANCE
        assert line_distance(lines(noisy, 1e-3), lines(reduced.path, 1e-3)) <= reduced.bound_mm + 2e-3
        assert abs(corners(reduced.path) - corners(path)) <= 1
        assert reduced.path.node_count <= 1.05 * path.node_count
        assert line_distance(lines(moved(path, 0.3, 0.7), 1e-3), lines(reduced.path, 1e-3)) < TOLERANCE + 3 * SIGMA
