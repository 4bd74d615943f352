"""Colours by what they are for. Everything around the picture is exactly neutral; colour carries meaning only."""

MOUNT = "#3b3b3b"
GROUND = "#1f1f1f"
PANEL = "#282828"
RAISED = "#343434"
LINE = "#454545"
INK = "#e6e6e6"
INK_SOFT = "#a6a6a6"
MOON = "#b9a8ef"
LAMP = "#f2c66d"
GOOD = "#8cc8a2"
CARE = "#e2b35c"
BAD = "#e88a8a"

RAIL_WIDTH, LIST_WIDTH, SHEET_WIDTH = 60, 192, 288
CONTACT_HEIGHT, DESK_HEIGHT = 146, 168
BODY_PX, LABEL_PX = 12.5, 11.0
ICON_PX = 18
