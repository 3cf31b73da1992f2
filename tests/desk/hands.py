"""What tests do in the window again and again."""


def settle(qtbot, desk):
    qtbot.waitUntil(lambda: not desk.state.bench.is_busy(), timeout=60_000)


def opened(qtbot, desk, *paths):
    desk.state.open_paths(list(paths))
    settle(qtbot, desk)


def found(desk):
    return [finding.code for finding in desk.state.findings]
