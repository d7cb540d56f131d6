"""Text from a file that any program may have written: which encoding it is in, and what it says."""

from pathlib import Path

from msgspec import Struct

from knotplan.exchange.files import read_whole

ENCODINGS = {
    "utf-8": "UTF-8",
    "utf-16": "UTF-16",
    "cp1252": "Western (1252)",
    "cp1250": "Central European (1250)",
    "cp1251": "Cyrillic (1251)",
    "mac_roman": "Western (old Macintosh)",
    "cp437": "Western (DOS 437)",
    "cp850": "Western (DOS 850)",
    "shift_jis": "Japanese (Shift JIS)",
    "gb18030": "Chinese (GB 18030)",
    "euc_kr": "Korean (EUC)",
    "big5": "Chinese (Big5)",
}
"""what spreadsheets and terminals write, as people choose it"""
MARKS = ((b"\xef\xbb\xbf", "utf-8"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16"))
"""byte-order marks (Unicode 16, 23.8)"""
SINGLE = {
    "cp1252": "äöüÄÖÜßéèêëàâçñôîïùûœáíóúÉ°µ²³½±–…“”„’·×€§",
    "cp1250": "ěřůčšžýáíéúóňťďľłąęćśźżńőűöüäÄÖÜßĚŘŮČŠŽÝÁÍÉŇŁĄĘĆŚŻŃ°µ–…“”„’",
    "cp1251": "абвгдежзийклмнопрстуфхцчшщъыьэюяАБВГДЕЖЗИЙКЛМНОПРСТУФХЦЧШЩЭЮЯёЁіїєґІЇЄҐ°µ±№–…“”„’«»",
    "mac_roman": "äöüÄÖÜßéèêëàâçñôîïùûœáíóúÉ°µ±–…“”„’·Ω",
    "cp437": "äöüÄÖÜßéèêëàâçñôîïùûáíóúÉ°µ²½±·Ω",
    "cp850": "äöüÄÖÜßéèêëàâçñôîïùûáíóúÉ°µ²³½±·×§",
}
"""letters and signs that words and units written in each have; which one a text is in is told by their share,
those that come first going before"""

MOST_TOLD = 200_000
"""bytes by which an encoding is told"""


class Decoded(Struct, frozen=True):
    """A text, and what it was written in."""

    text: str
    encoding: str


def decoded(data: bytes, encoding: str = "") -> Decoded:
    """The text of some bytes, line ends as line feeds: in the encoding that is said, else in that which they
    are most probably in. Raises UnicodeDecodeError where they are not in the one that is said."""
    name = encoding or _marked(data) or _guessed(data)
    text = data.decode(_codec(data, name))
    return Decoded(text.replace("\r\n", "\n").replace("\r", "\n"), name)


def codec_of(beginning: bytes) -> str:
    """The codec for a file that begins so: for what reads it piece by piece, and replaces what it has not."""
    return _codec(beginning, _marked(beginning) or _guessed(beginning))


def _codec(data: bytes, encoding: str) -> str:
    """Python's name: without a mark, UTF-16 has to be told by which byte of each pair is mostly zero."""
    if encoding == "utf-16" and not data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return "utf-16-be" if _zeros(data, 0) > _zeros(data, 1) else "utf-16-le"
    return "utf-8-sig" if encoding == "utf-8" else encoding


def read_any(path: Path, most: int) -> str:
    """The text of an ordinary file, in whatever encoding it is. Raises FileTooLargeError, OSError, or
    UnicodeDecodeError where it is no text."""
    data = read_whole(path, most)
    found = decoded(data)
    if "\0" in found.text:
        raise UnicodeDecodeError("utf-8", data, max(data.find(0), 0), len(data), "is no text")
    return found.text


def _marked(data: bytes) -> str:
    return next((name for mark, name in MARKS if data.startswith(mark)), "")


def _zeros(data: bytes, parity: int) -> int:
    return data[parity:400:2].count(0)


def _guessed(data: bytes) -> str:
    """By what bytes can be at all, then by which letters come out."""
    if len(data) % 2 == 0 and abs(_zeros(data, 0) - _zeros(data, 1)) > min(len(data), 400) // 8:
        return "utf-16"
    if _can_be(data, "utf-8"):
        return "utf-8"
    single, share = _single(data)
    if share == 1.0:
        return single
    from charset_normalizer import from_bytes

    several = [e for e in ENCODINGS if e not in ("utf-8", "utf-16", *SINGLE)]
    best = from_bytes(data[:MOST_TOLD], cp_isolation=several).best()
    return best.encoding if best is not None and _can_be(data, best.encoding) else single


def _can_be(data: bytes, encoding: str) -> bool:
    try:
        data.decode(encoding)
    except UnicodeDecodeError:
        return False
    return True


def _single(data: bytes) -> tuple[str, float]:
    """Of the encodings of one byte a letter: the one in which most letters beyond ASCII are such as words
    have, and their share."""
    high = bytes(b for b in data[:MOST_TOLD] if b >= 0x80)

    def share(encoding: str) -> float:
        text = high.decode(encoding, "replace")
        return sum(letter in SINGLE[encoding] for letter in text) / max(1, len(text))

    able = [e for e in SINGLE if _can_be(data, e)] or ["cp437"]
    best = max(able, key=share)
    return best, share(best)
