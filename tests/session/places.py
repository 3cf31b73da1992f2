"""Where one may look on a sheet, for properties that hold anywhere."""

from hypothesis import strategies as st

from unkelt.session.viewport import Viewport

views = st.builds(
    Viewport,
    st.floats(50, 4000),
    st.floats(50, 4000),
    st.floats(0.01, 5000),
    st.floats(-1e4, 1e4),
    st.floats(-1e4, 1e4),
)
