"""How wide texts of a drawing are: the widths of the letters of the font that ships with the product."""

from functools import lru_cache
from typing import Final

#: mm: height of capitals and figures (ISO 3098-1), of small texts, and of titles.
TEXT, SMALL, TITLE = 3.5, 2.5, 5.0
#: Height of capitals over the font's size.
CAPITAL: Final = 0.7
#: Drawn signs that no font has (ISO 129-1: counterbore, countersink, depth, square; ISO 3040: taper); as wide as they
#: are high.
SIGNS: Final = "⌴⌵↧□▷"
#: Width of a sign, thousandths of the font's size.
_SIGN: Final = 800
#: What has no width of its own.
_OTHER: Final = 600
#: Thousandths of the font's size, made by `scripts/letter_widths.py`.
_LETTERS: Final = {
    0: "̣̀́̃̄̈̉",
    145: "'",
    151: "¸",
    163: "ʻʼ‘’",
    179: "|¦",
    188: "¹",
    200: " ",
    209: "`´",
    219: "·",
    221: "ìíîïı",
    230: "⁄",
    235: "l",
    248: "j",
    255: "i",
    260: "IÌÍÎÏ",
    264: ",",
    275: ".",
    278: "¯",
    281: "˚",
    282: "ˆ",
    291: "()",
    297: '"',
    301: "“”",
    311: "•",
    312: ";",
    313: "„",
    323: "³",
    326: "ª",
    328: "!¡",
    329: "{}",
    332: "²",
    348: ":",
    352: "1″",
    353: "‹",
    358: "º",
    360: "¨",
    365: "˜",
    367: "f",
    369: "t",
    371: "r",
    379: "°",
    383: "›",
    393: "[]",
    398: "*",
    400: "-",
    426: "/\\",
    430: "×",
    449: "®",
    451: "z",
    458: "^",
    460: "–",
    468: "§",
    476: "yýÿ",
    481: "7",
    482: "?¿",
    487: "s",
    491: "v",
    495: "+<=>¬±÷−",
    498: "_",
    499: "x",
    512: "k",
    513: "~",
    517: "aàáâãäå",
    523: "56",
    524: "3",
    525: "9",
    526: "c¢ç",
    527: "8",
    529: "«»",
    530: "ø",
    536: "e",
    537: "èéêë∕",
    538: "uð",
    540: "¤",
    541: "òóôõöùúûü",
    542: "hnñ",
    543: "g",
    544: "2þ",
    548: "µ",
    551: "Z",
    553: "bd",
    555: "o",
    558: "pq",
    563: "$ß",
    565: "F",
    566: "0",
    570: "4L",
    572: "Þ",
    574: "T",
    579: "J",
    582: "Q",
    585: "YÝ",
    588: "S",
    593: "P",
    594: "¶",
    598: "EÈÉÊË",
    600: "‚′",
    601: "V",
    604: "X",
    607: "CÇ",
    609: "£",
    613: "GR",
    616: "K",
    618: "D",
    622: "OÒÓÔÕÖØ",
    624: "B",
    630: "AÀÁÂÃÄÅ",
    635: "€",
    641: "UÙÚÛÜ",
    645: "H",
    662: "™",
    669: "#",
    672: "Ñ",
    673: "N",
    675: "&",
    676: "—",
    678: "Ð",
    687: "¥",
    715: "M",
    743: "w",
    798: "½",
    813: "¼",
    815: "…",
    823: "@",
    826: "m",
    834: "æ",
    839: "%",
    850: "©",
    863: "œ",
    878: "W",
    907: "¾",
    924: "Œ",
    935: "Æ",
}
_WIDTHS: Final = {letter: width for width, letters in _LETTERS.items() for letter in letters}


def font_size(height: float) -> float:
    """Return the size of the font, mm, whose capitals are so high."""
    return height / CAPITAL


@lru_cache(maxsize=4096)
def text_width(text: str, height: float) -> float:
    """Return how wide a text is, mm, whose capitals are so high.

    Examples
    --------
    >>> text_width("", 3.5)
    0.0
    >>> text_width("Ø10", 3.5) < text_width("Ø100", 3.5)
    True
    """
    return font_size(height) * sum(_WIDTHS.get(letter, _SIGN if letter in SIGNS else _OTHER) for letter in text) / 1000
