"""How large a printed program is on an 8-bit chip: its variables and tables counted, its code estimated by what it is made of."""

import ast
import re
from collections.abc import Iterator, Mapping
from typing import Final, NamedTuple

SIZES: Final = {
    "bool": 1, "char": 1, "uint8_t": 1, "int8_t": 1, "index_t": 1, "uint16_t": 2, "int16_t": 2, "event_t": 2,
    "uint32_t": 4, "int32_t": 4, "ms_t": 4, "double": 4, "float": 4, "int": 2, "long": 4,
}  # fmt: skip
POINTER: Final = 2
_COMMENT: Final = re.compile(r"//[^\n]*")
_ENUM: Final = re.compile(r"enum (\w+) : (\w+) \{([^}]*)\};")
_STRUCT: Final = re.compile(r"struct (\w*) ?\{([^{}]*)\}([^;{}]*);")
_CONSTANT: Final = re.compile(r"static const uint(?:8|16)_t (\w+) = (\d+);")
_VARIABLE: Final = re.compile(r"^[ \t]*static (?!const|inline)(?:(?:const )?(\w+)) (\*?\w[^;()=]*)(?:=[^;]*)?;", re.M)
_TABLE: Final = re.compile(r"static const (\w+) \*?(?:const )?\w+((?:\[[^\]]*\])+) IN_FLASH = \{(.*?)\};", re.S)
_DIMENSION: Final = re.compile(r"\[([^\]]*)\]")
_TEXT: Final = re.compile(r'(?<!include )"((?:[^"\\\n]|\\.)*)"')
_IN_FLASH: Final = re.compile(r'IN_FLASH = "[^\n]*')
_ESCAPED: Final = re.compile(r"\\.")
_NAME: Final = re.compile(r"[*\s]*(\w+)")


class Sizes(NamedTuple):
    """Bytes of an 8-bit chip: code and tables in flash, and variables in memory."""

    code: int
    tables: int
    variables: int

    @property
    def flash(self) -> int:
        """All of it in flash."""
        return self.code + self.tables


def sizes_of(program: str, weights: Mapping[str, float]) -> Sizes:
    """Return how large a program is. ``weights`` are bytes for each of its marks, as they were found by compiling many."""
    text = plain(program)
    counted = _Counted(text)
    code = sum(weights.get(name, 0.0) * count for name, count in marks_of(text))
    return Sizes(round(code), sum(counted.tables()), sum(counted.variables()))


def plain(program: str) -> str:
    """Return a program without its comments."""
    return _COMMENT.sub("", program)


class _Counted:
    """The types and numbers that a program's declarations are made of."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.types, self.numbers = dict(SIZES), dict[str, int]()
        for name, of, members in _ENUM.findall(text):
            self.types[name] = self.types[of]
            self.numbers |= {it.strip(): at for at, it in enumerate(members.split(",")) if it.strip()}
        self.numbers |= {name: int(value) for name, value in _CONSTANT.findall(text)}
        self.unnamed = list[tuple[int, str]]()
        for name, body, after in _STRUCT.findall(text):
            size = sum(self._fields(body))
            self.types[name or "?"] = size
            if after.strip():
                self.unnamed.append((size, after))

    def _fields(self, body: str) -> Iterator[int]:
        for declared in body.split(";"):
            words = declared.replace("const ", "").split(None, 1)
            if len(words) == 2:
                yield from (self._sized(words[0], it) for it in words[1].split(","))

    def _sized(self, kind: str, declared: str) -> int:
        count = 1
        for dimension in _DIMENSION.findall(declared):
            count *= self._number(dimension)
        return count * (POINTER if "*" in declared else self.types.get(kind, POINTER))

    def _number(self, text: str) -> int:
        return _value(ast.parse(text.strip() or "0", mode="eval").body, self.numbers)

    def variables(self) -> Iterator[int]:
        """Yield the size of each variable."""
        for kind, declared in _VARIABLE.findall(self.text):
            if kind in self.types:
                yield from (self._sized(kind, it) for it in _parts(declared))
        yield from (size * self._times(after) for size, after in self.unnamed)
        yield sum(_letters(it) for it in {*_TEXT.findall(_IN_FLASH.sub("", self.text))})

    def _times(self, declared: str) -> int:
        count = 1
        for dimension in _DIMENSION.findall(declared):
            count *= self._number(dimension)
        return count

    def tables(self) -> Iterator[int]:
        """Yield the size of each table in flash: by its rows, or by its numbers where it is of numbers alone."""
        yield sum(_letters(it) for it in _TEXT.findall("".join(_IN_FLASH.findall(self.text))))
        for kind, dimensions, rows in _TABLE.findall(self.text):
            dims, inside = _DIMENSION.findall(dimensions), rows.count("{")
            last = self._number(dims[-1]) if len(dims) > 1 else 1
            count = inside if inside else len([it for it in rows.split(",") if it.strip()])
            yield count * last * self.types.get(kind, 1)


def _letters(text: str) -> int:
    """Return the bytes of a text between quotes, with the one that ends it."""
    return len(_ESCAPED.sub("x", text)) + 1


def _parts(declared: str) -> list[str]:
    """Cut declared names apart at commas outside of brackets."""
    return re.split(r",(?![^\[]*\])", declared)


def _value(node: ast.expr, numbers: Mapping[str, int]) -> int:
    """Work a number out: names, whole numbers, and what they are added, multiplied and divided to."""
    match node:
        case ast.Constant(value=int() as value):
            return value
        case ast.Name(id=name):
            return numbers.get(name, 0)
        case ast.BinOp(left=left, right=right, op=op):
            one, other = _value(left, numbers), _value(right, numbers)
            return {ast.Add: one + other, ast.Sub: one - other, ast.Mult: one * other, ast.Div: one // max(other, 1)}.get(
                type(op), 0
            )
        case _:
            return 0


def marks_of(text: str) -> Iterator[tuple[str, int]]:
    """Yield what a program's code is made of, and how often: its functions' names, and what they do."""
    code = _TABLE.sub("", text)
    yield "base", 1
    for name, pattern in MARKS.items():
        yield name, len(pattern.findall(code))
    for name in set(FUNCTION.findall(code)):
        yield f"fn {name}", 1


FUNCTION: Final = re.compile(r"^static [^\n(={;]{1,60}?\b([a-z]\w*)\([^;{]*\) \{", re.M)
MARKS: Final = {
    "call": re.compile(r"\b[a-z_]\w*\("),
    "index": re.compile(r"\["),
    "set": re.compile(r"[^=!<>]=[^=]"),
    "test": re.compile(r"\b(?:if|for|while|case)\b|\?"),
    "long": re.compile(r"\b(?:ms_t|uint32_t|int32_t|\d+UL)\b"),
    "divide": re.compile(r"[^/]/[^/]|%"),
    "flash": re.compile(r"from_flash\("),
}
