"""Everything that can be done, as data: menus, shortcuts, the command list and the tests read this one table."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Action:
    """`id` is what `desk/doings.py` knows it by; `keys` are in Qt's portable notation, or the name of a platform
    standard ("StandardKey.Open").
    """

    id: str
    words: str
    menu: str
    keys: tuple[str, ...] = ()
    icon: str | None = None
    separated: bool = False
    short: str | None = None
    switches: bool = False
    """Whether it turns something on and off, which its menu shows."""


SHAPES = ("circle", "ellipse", "rectangle", "line", "freehand")
"""The shapes that can be drawn."""

ACTIONS: tuple[Action, ...] = (
    Action("new_sheet", "New sheet…", "File", ("StandardKey.New",), "file-plus", short="New"),
    Action("open_file", "Open…", "File", ("StandardKey.Open",), "folder-open", short="Open"),
    Action("open_folder", "Open a folder…", "File", ("Ctrl+Shift+O",)),
    Action("watch_folder", "Watch a folder…", "File"),
    Action("open_ticket", "Choose a ticket…", "File", ("Ctrl+T",), "ticket", short="Ticket"),
    Action("set_colours", "What each colour is for…", "File", ("Ctrl+K",)),
    Action("save_ticket", "Save the ticket…", "File"),
    Action("save_as", "Save the result…", "File", ("StandardKey.Save",), "save", short="Save"),
    Action("save_chosen", "Save only what is chosen…", "File"),
    Action("save_recipe", "Save the recipe…", "File", ("Ctrl+Shift+S",)),
    Action("save_burn", "Save the burn as a picture…", "File"),
    Action("release_job", "Release…", "File", ("Ctrl+R",), separated=True),
    Action("close_file", "Close the file", "File", ("StandardKey.Close",), separated=True),
    Action("close_window", "Quit", "File", ("StandardKey.Quit", "Ctrl+Q")),
    Action("undo", "Undo", "Edit", ("StandardKey.Undo",), "undo-2"),
    Action("redo", "Redo", "Edit", ("StandardKey.Redo", "Ctrl+Shift+Z"), "redo-2"),
    Action("delete", "Delete", "Edit", ("Del",), separated=True),
    Action("duplicate", "Duplicate", "Edit", ("Ctrl+D",)),
    Action("group", "Group", "Edit", ("Ctrl+G",)),
    Action("ungroup", "Ungroup", "Edit", ("Ctrl+Shift+G",)),
    Action("select_all", "Select all", "Edit", ("StandardKey.SelectAll",)),
    Action("forward", "Bring forward", "Edit", ("Ctrl+]",), separated=True),
    Action("backward", "Send backward", "Edit", ("Ctrl+[",)),
    Action("isolate", "Show these alone", "Edit", ("I",)),
    Action("add_lettering", "Add lettering", "Edit", ("T",), separated=True),
    Action("add_circle", "Add a circle", "Edit"),
    Action("add_ellipse", "Add an ellipse", "Edit"),
    Action("add_rectangle", "Add a rectangle", "Edit"),
    Action("add_line", "Add a line", "Edit"),
    Action("add_freehand", "Add a freehand line", "Edit"),
    Action("find_step", "Find a step", "Edit", ("/",), separated=True),
    Action("next_finding", "Next finding", "Mend", ("J",)),
    Action("previous_finding", "Previous finding", "Mend", ("K",)),
    Action("apply_here", "Apply the step here", "Mend", ("Ctrl+Return",), "check", separated=True),
    Action("apply_alike", "Apply to all alike", "Mend", ("Ctrl+Shift+Return",)),
    Action("mend_safe", "Mend what is safe", "Mend", ("Ctrl+M",), "list-checks"),
    Action("mend_all", "Mend what is safe in all jobs", "Mend", ("Ctrl+Shift+M",)),
    Action("accept_finding", "Accept as it is…", "Mend", ("Ctrl+Shift+A",)),
    Action("run_recipe", "Run a recipe…", "Recipe", ("Ctrl+Shift+R",)),
    Action("change_step", "Change the step…", "Recipe", ("Ctrl+E",), separated=True),
    Action("take_out_step", "Remove the step", "Recipe", ("Ctrl+Backspace",)),
    Action("step_earlier", "Move the step earlier", "Recipe", ("Alt+Left",)),
    Action("step_later", "Move the step later", "Recipe", ("Alt+Right",)),
    Action("stop_work", "Stop", "Mend", ("Esc",), separated=True),
    Action("view_intake", "Intake: what came in", "View", ("Ctrl+1",)),
    Action("view_inspect", "Inspect: what was found", "View", ("Ctrl+2",)),
    Action("view_compose", "Compose: what is on the sheet", "View", ("Ctrl+3",)),
    Action("view_proof", "Proof: as importing sees it", "View", ("Ctrl+4",)),
    Action("view_release", "Release: what goes out", "View", ("Ctrl+5",)),
    Action("zoom_in", "Zoom in", "View", ("StandardKey.ZoomIn", "+"), "zoom-in", separated=True),
    Action("zoom_out", "Zoom out", "View", ("StandardKey.ZoomOut", "-"), "zoom-out"),
    Action("zoom_fit", "Fit to window", "View", ("0",), "maximize"),
    Action("zoom_true", "True size", "View", ("9",)),
    Action("measure_screen", "Calibrate true size…", "View"),
    Action("zoom_finding", "Zoom to the finding, or to what is chosen", "View", ("F",), "locate"),
    Action("lens_ink", "Ink: as drawn", "View", ("1",), separated=True),
    Action("lens_blade", "Blade: what the tool follows", "View", ("2",)),
    Action("lens_burn", "Burn: what an engraver burns", "View", ("3",)),
    Action("lens_nodes", "Nodes: nodes and handles", "View", ("4",)),
    Action("measure", "Measure: distances, thickness, gaps", "View", ("D",), separated=True),
    Action("look_grid", "Grid", "View", ("G",), switches=True),
    Action("add_guide", "Add a guide line…", "View", ("Shift+G",)),
    Action("clear_guides", "Remove all guide lines", "View"),
    Action("look_snap", "Snap to nodes, lines, guides and grid", "View", ("S",), switches=True),
    Action("compare", "Compare with the original", "View", ("W",)),
    Action("look_original", "Show as received, or flip what is tried", "View", ("B",), separated=True),
    Action("look_latest", "Show as it is now", "View", ("N",)),
    Action("look_theme", "Light or dark", "View", ("Ctrl+L",), separated=True),
    Action("text_larger", "Larger text", "View", ("Ctrl+Shift+Up",)),
    Action("text_smaller", "Smaller text", "View", ("Ctrl+Shift+Down",)),
    Action("look_units", "Millimetres or inches", "View", ("U",)),
    Action("show_commands", "Find a command…", "Help", ("Ctrl+J",)),
    Action("show_guide", "Guide", "Help", ("StandardKey.HelpContents", "F1")),
    Action("explain", "What this finding means", "Help", ("Ctrl+I",)),
    Action("show_keys", "Keys", "Help", ("Shift+F1",), "keyboard"),
    Action("open_demo", "Open the jobs of Hollin Quay", "Help"),
    Action("copy_details", "Copy details for a report", "Help"),
    Action("show_about", "About Unkelt", "Help"),
)
