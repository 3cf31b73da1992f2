"""What each action of the table does: its id, and what is called."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from unkelt.desk.room import Room
from unkelt.desk.views import View
from unkelt.session.actions import SHAPES

Doings = dict[str, Callable[[], object]]


def doings_in(room: Room) -> Doings:
    """The actions that are done in the room; what concerns the window itself the window adds."""
    state, filing, inspecting, looking = room.state, room.filing, room.inspecting, room.looking
    return {
        **_at_the_bench(room),
        "new_sheet": filing.new_sheet,
        "open_file": filing.open_file,
        "open_folder": room.intaking.ask_folder,
        "watch_folder": room.intaking.ask_watch,
        "open_ticket": filing.open_ticket,
        "set_colours": filing.set_colours,
        "save_ticket": filing.save_ticket,
        "save_as": filing.save_as,
        "save_chosen": lambda: filing.save_chosen(room.composer.chosen_ids),
        "save_recipe": filing.save_recipe,
        "run_recipe": filing.run_recipe,
        "save_burn": filing.save_burn,
        "close_file": filing.close_file,
        "open_demo": filing.open_demo,
        "undo": state.stepping.undo,
        "redo": state.stepping.redo,
        "next_finding": inspecting.next_finding,
        "previous_finding": inspecting.previous_finding,
        "apply_here": inspecting.apply_here,
        "apply_alike": inspecting.apply_alike,
        "accept_finding": inspecting.accept_finding,
        "zoom_finding": room.benching.zoom_to_it,
        "mend_safe": state.stepping.mend_safe,
        "mend_all": state.stepping.mend_all,
        "change_step": room.reciping.change_step,
        "take_out_step": room.reciping.take_out_step,
        "step_earlier": room.reciping.step_earlier,
        "step_later": room.reciping.step_later,
        **{view.action: partial(room.turn_to, view) for view in View.all()},
        "release_job": partial(room.turn_to, View.RELEASE),
        "zoom_in": room.zooming.zoom_in,
        "zoom_out": room.zooming.zoom_out,
        "zoom_fit": room.zooming.zoom_fit,
        "zoom_true": room.zooming.zoom_true,
        "measure_screen": room.zooming.measure_screen,
        "lens_ink": looking.lens_ink,
        "lens_blade": looking.lens_blade,
        "lens_burn": looking.lens_burn,
        "lens_nodes": looking.lens_nodes,
        "compare": looking.compare,
        "look_original": room.benching.look_before,
        "look_latest": looking.look_latest,
        "look_units": room.benching.look_units,
        "measure": looking.measure,
        "look_grid": room.laying.look_grid,
        "look_snap": room.laying.look_snap,
        "add_guide": room.laying.add_guide,
        "clear_guides": room.laying.clear_guides,
        "show_commands": room.helping.show_commands,
        "show_guide": room.helping.show_guide,
        "explain": room.helping.explain,
        "show_keys": room.helping.show_keys,
        "copy_details": room.helping.copy_details,
        "show_about": room.helping.show_about,
    }


def _at_the_bench(room: Room) -> Doings:
    hands, benching = room.hands, room.benching
    return {
        "delete": hands.delete,
        "duplicate": hands.duplicate,
        "group": hands.group,
        "ungroup": hands.ungroup,
        "select_all": hands.select_all,
        "forward": hands.forward,
        "backward": hands.backward,
        "isolate": room.compose.layers.isolate,
        "add_lettering": benching.add_lettering,
        **{f"add_{shape}": partial(benching.draw_shape, shape) for shape in SHAPES},
        "find_step": benching.find_step,
    }
