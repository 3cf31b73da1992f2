"""Documents and pages at random are painted by independent renderers as they were read."""

import pytest

from tests.formats import random_dxf, random_pdf, random_svg


@pytest.mark.parametrize("first", range(0, 16, 4))
def test_svg_is_read_as_resvg_paints_it(first):
    """Groups in groups, viewports, copies, styles, units. A thousand more were read by hand."""
    assert {seed: found for seed in range(first, first + 4) if (found := random_svg.differences(seed))} == {}


@pytest.mark.parametrize("first", range(0, 8, 4))
def test_pdf_is_read_as_pdfium_paints_it(first):
    """Matrices, forms, strokes, opacity, text. Where dashes lie, every renderer measures for itself."""
    found = {seed: random_pdf.differences(seed, dashes=False) for seed in range(first, first + 4)}
    assert not any(found.values()), found


def test_dxf_is_read_as_ezdxf_draws_it():
    """Blocks in blocks, planes of their own, inherited colours; their add-on takes blocks apart in a way of its own."""
    assert {seed: found for seed in range(24) if (found := random_dxf.differences(seed))} == {}


def test_dxf_goes_out_as_the_second_reader_sees_it():
    """Order of painting, areas, widths, colours of the index; neither reader knows the other."""
    assert {seed: found for seed in range(24) if (found := random_dxf.held(seed))} == {}
