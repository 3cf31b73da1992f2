"""All steps, by name, and the order in which the safe ones are taken."""

from __future__ import annotations

from unkelt.steps.add_lettering import add_lettering
from unkelt.steps.add_shape import add_shape
from unkelt.steps.align import align, stack
from unkelt.steps.backing import backing
from unkelt.steps.bind import bind
from unkelt.steps.blunt_spikes import blunt_spikes
from unkelt.steps.border import border
from unkelt.steps.bridge import bridge
from unkelt.steps.close_ends import close_subpath, join_ends
from unkelt.steps.close_joint import close_joint
from unkelt.steps.copies import grid, spokes
from unkelt.steps.drop import drop_guide, drop_item
from unkelt.steps.drop_duplicate import drop_duplicate
from unkelt.steps.drop_scraps import drop_scraps
from unkelt.steps.drop_shared_edge import drop_shared_edge
from unkelt.steps.duplicate import duplicate
from unkelt.steps.ease_corners import ease_corners
from unkelt.steps.edit_nodes import edit_nodes
from unkelt.steps.expand_stroke import expand_stroke
from unkelt.steps.fit_page import fit_page
from unkelt.steps.hang_ring import hang_ring
from unkelt.steps.knock_out import knock_out
from unkelt.steps.let_in import let_in
from unkelt.steps.line import hairline, unify_colours
from unkelt.steps.merge_nodes import merge_nodes
from unkelt.steps.operation import reveal, set_operation
from unkelt.steps.organise import group, rename, ungroup
from unkelt.steps.orient_rings import orient_rings
from unkelt.steps.outline_text import outline_text
from unkelt.steps.place import mirror, move, rotate, shear
from unkelt.steps.recover_text import recover_text
from unkelt.steps.reduce_nodes import reduce_nodes
from unkelt.steps.resize import resize
from unkelt.steps.restore_counters import restore_counters
from unkelt.steps.scale import scale
from unkelt.steps.set_colour import set_colour
from unkelt.steps.set_face import set_face
from unkelt.steps.set_letters import set_letters
from unkelt.steps.set_on_guide import set_on_guide
from unkelt.steps.set_paragraph import set_paragraph
from unkelt.steps.set_spacing import set_spacing
from unkelt.steps.set_stroke import set_stroke
from unkelt.steps.set_text import set_text
from unkelt.steps.split_text import join_text, split_text
from unkelt.steps.state_units import state_units
from unkelt.steps.step import Step
from unkelt.steps.stretch_text import stretch_text
from unkelt.steps.thicken import thicken
from unkelt.steps.unbind import unbind
from unkelt.steps.weld import weld

SAFE_ORDER: tuple[Step, ...] = (
    drop_guide,  # while it is still a line of its own: a stroke made an outline, or a weld, would hide what it was
    drop_scraps,  # for the same reason
    drop_duplicate,  # a weld would merge copies without a word
    unify_colours,  # near colours become one material before anything asks what belongs together
    outline_text,  # all that follows works on outlines
    restore_counters,  # a weld would swallow them
    orient_rings,
    weld,  # letters by their shape, while their strokes are still strokes: no line then runs through a joint
    expand_stroke,
    join_ends,  # an open letter can't be welded
    drop_duplicate,  # what has become one only now
    weld,  # what strokes became, and what was open before
    bind,  # refuses while anything overlaps
    resize,  # before nodes go, so that the tolerance holds at the size that is cut
    reduce_nodes,  # last, within what the steps before have left of the tolerance
    merge_nodes,  # what is still crowded when nothing else can go
    hairline,
)
"""The order in which "Mend what is safe" takes the safe steps, and why."""

STEPS: dict[str, Step] = {
    step.name: step
    for step in (
        *SAFE_ORDER,
        add_lettering,
        set_text,
        set_face,
        set_spacing,
        set_paragraph,
        set_letters,
        stretch_text,
        set_on_guide,
        split_text,
        join_text,
        thicken,
        set_stroke,
        backing,
        border,
        knock_out,
        close_joint,
        bridge,
        let_in,
        hang_ring,
        add_shape,
        duplicate,
        spokes,
        grid,
        edit_nodes,
        ease_corners,
        blunt_spikes,
        close_subpath,
        drop_item,
        drop_shared_edge,
        unbind,
        recover_text,
        reveal,
        set_operation,
        set_colour,
        fit_page,
        move,
        scale,
        rotate,
        shear,
        mirror,
        align,
        stack,
        state_units,
        rename,
        group,
        ungroup,
    )
}
"""All steps by name. Of several that cure a finding the earlier is the likelier, and by hand they are offered in this
order, the safe ones last.
"""
