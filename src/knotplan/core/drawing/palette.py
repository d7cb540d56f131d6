"""Our colours: cloth, ink, indigo, marigold, vermilion; and the cords' real ones (IEC 60757 names)."""

from msgspec import Struct
from msgspec.structs import replace

CORDS = {
    "black": "#24282c",
    "brown": "#7d4a25",
    "red": "#b8322a",
    "orange": "#d97b1f",
    "yellow": "#d9bf2b",
    "green": "#2f8a45",
    "blue": "#3a6fc4",
    "violet": "#7a4fa8",
    "grey": "#8d9299",
    "white": "#f4f2ea",
    "pink": "#d77aa5",
    "turquoise": "#2c9c9c",
}

BAND_COLOURS = {
    "black": "#1b1b1b",
    "brown": "#7a4a21",
    "red": "#c62d23",
    "orange": "#e8731a",
    "yellow": "#f2cf26",
    "green": "#2f8f46",
    "blue": "#2b5cc0",
    "violet": "#7d4aa8",
    "grey": "#8d8d8d",
    "white": "#fafafa",
    "gold": "#b8923a",
    "silver": "#c3c7cb",
    "pink": "#e79ab4",
}
"""of resistors (IEC 60062), as they look"""
BODY_COLOUR = "#e6d9bd"


class Palette(Struct, frozen=True):
    """Colours by what they are for."""

    cloth: str
    """the ground"""
    card: str
    edge: str
    """of cards and panels"""
    border: str
    """of controls: at least 3:1 on card and cloth"""
    ink: str
    faint: str
    """secondary text, still at 4.5:1 on card and cloth"""
    active: str
    active_soft: str
    care: str
    care_text: str
    care_soft: str
    stop: str
    stop_soft: str
    good: str
    board: str
    board_edge: str
    board_text: str
    board_faint: str
    pin: str
    pin_timed: str
    pin_hole: str
    supply: str
    supply_low: str
    ground: str
    copper: str
    cord_edge: str
    inverse: str
    inverse_text: str


LIGHT = Palette(
    cloth="#f1eee5",
    card="#fdfcf8",
    edge="#d5d0c2",
    border="#8c8778",
    ink="#1f2529",
    faint="#5c6266",
    active="#33459a",
    active_soft="#e4e7f5",
    care="#d9951f",
    care_text="#8a5a00",
    care_soft="#fdf3dc",
    stop="#ba3624",
    stop_soft="#fbe6e1",
    good="#2b7244",
    board="#2b3850",
    board_edge="#1b2434",
    board_text="#f4f5f8",
    board_faint="#a9b4c8",
    pin="#dfe4ee",
    pin_timed="#8fa3d8",
    pin_hole="#1b2434",
    supply="#c8412e",
    supply_low="#d98a2b",
    ground="#10151d",
    copper="#b98d4a",
    cord_edge="#2a2e33",
    inverse="#20282f",
    inverse_text="#f6f4ee",
)

DARK = Palette(
    cloth="#1d2124",
    card="#282d31",
    edge="#42484d",
    border="#858d93",
    ink="#ece9e1",
    faint="#a9aeb0",
    active="#93a5f0",
    active_soft="#343c5c",
    care="#e6ab3f",
    care_text="#f0c068",
    care_soft="#453a22",
    stop="#f48e7c",
    stop_soft="#4d2c27",
    good="#6fc48d",
    board="#33445f",
    board_edge="#55688a",
    board_text="#f4f5f8",
    board_faint="#b9c4d8",
    pin="#dfe4ee",
    pin_timed="#93a9e4",
    pin_hole="#161b25",
    supply="#dd5a45",
    supply_low="#e09a3d",
    ground="#0a0d12",
    copper="#b98d4a",
    cord_edge="#858d92",
    inverse="#f1eee5",
    inverse_text="#20282f",
)

LIGHT_STRONG = replace(
    LIGHT,
    cloth="#ffffff",
    card="#ffffff",
    edge="#6b7075",
    border="#2b3035",
    ink="#000000",
    faint="#33383c",
    active="#16256b",
    care="#a86400",
    care_text="#573600",
    stop="#87170a",
    good="#0d4a25",
    board="#111a2b",
    board_edge="#000000",
    board_text="#ffffff",
    board_faint="#dbe2ee",
    pin="#ffffff",
    pin_timed="#b4c3f0",
    inverse="#000000",
    inverse_text="#ffffff",
)
"""for those who want more contrast: text has 7:1 and more, borders 4.5:1 (WCAG 2.1, level AAA)"""
DARK_STRONG = replace(
    DARK,
    cloth="#000000",
    card="#000000",
    edge="#9aa1a6",
    border="#d5dade",
    ink="#ffffff",
    faint="#d8dcde",
    active="#c0cbff",
    active_soft="#1d2650",
    care="#ffc65c",
    care_text="#ffd78a",
    care_soft="#2e2408",
    stop="#ffb3a6",
    stop_soft="#38120c",
    good="#9fe8b8",
    board="#16233b",
    board_edge="#b9c6df",
    board_text="#ffffff",
    board_faint="#dbe2ee",
    pin="#ffffff",
    inverse="#ffffff",
    inverse_text="#000000",
)
