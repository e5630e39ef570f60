"""How a printed program makes words of bytes, as the parser of the rehearsal does."""

from collections.abc import Callable, Iterator

from oddlamp.core.behaviour.framing import parser_of
from oddlamp.core.design.talks import VocabularyDesign, WordDesign
from oddlamp.core.firmware.engine import WORDS, only_used
from oddlamp.core.firmware.names import said

Acts = Callable[[WordDesign], str]


def hearing(vocabulary: VocabularyDesign | None, acts: Acts) -> str:
    """Print what is done with each byte that comes; ``acts`` gives what a word sets off, empty for nothing."""
    if vocabulary is None:
        return "static void hear(uint8_t) {}\n"
    out, ending = [it for it in vocabulary.words if it.direction == "out"], vocabulary.terminator
    plain = {word.content: word for word in reversed(out) if word.shape is None}
    parser = parser_of(vocabulary, "out")
    passed = " || ".join(f"byte == {it}" for it in (13, 10) if parser.passes_over(it))
    lines = ["static void hear(uint8_t byte) {", *([f"  if ({passed}) return;  // no word uses it"] if passed else [])]
    if not ending:
        heard = [(content, word) for content, word in plain.items() if acts(word)]
        cases = [f"    case {content[0]}: {acts(word)} break;  // {said(word.label)}" for content, word in heard]
        return "\n".join([*lines, "  switch (byte) {", *cases, "  }", "}", ""])
    lines += ["  static uint8_t line[65];", "  static uint8_t size;", "  line[size++] = byte;"]
    tests = " && ".join(f"line[size - {len(ending) - at}] == {byte}" for at, byte in enumerate(ending))
    lines += [
        f"  if (size < {len(ending)} || !({tests})) {{",
        "    if (size > 64) size = 0;  // too long for a word",
        "    return;",
        "  }",
    ]
    lines += [f"  const uint8_t whole = (uint8_t)(size - {len(ending)});", "  size = 0;"]
    for content, word in plain.items():
        test = " && ".join([f"whole == {len(content)}", *(f"line[{at}] == {byte}" for at, byte in enumerate(content))])
        lines.append(f"  if ({test}) {{ {acts(word)} return; }}  // {said(word.label)}")
    shaped = [word for word in out if word.shape is not None]
    for at, word in enumerate(shaped):
        lines.append(f"  if (is_word_{at}(line, whole)) {{ {acts(word)} return; }}  // {said(word.label)}")
    matchers = [line for at, word in enumerate(shaped) for line in _matcher(at, word)]
    words = "\n".join([*matchers, *lines, "}", ""])
    return only_used(WORDS, words) + words


def _matcher(at: int, word: WordDesign) -> Iterator[str]:
    """Yield a function that tells whether a line is a word with values, and keeps them."""
    shape, numbers = word.shape, [it.id for it in word.parameters]
    assert shape is not None
    yield f"static bool is_word_{at}(const uint8_t *line, uint8_t size) {{"
    yield "  uint8_t at = 0;"
    yield f"  uint16_t values[{max(len(numbers), 1)}] = {{}};"
    for piece in shape.pieces:
        if isinstance(piece, bytes):
            wanted = ", ".join(map(str, piece))
            yield f"  {{ const uint8_t wanted[] = {{{wanted}}}; if (!same(line, size, at, wanted, {len(piece)})) return false; }}"
            continue
        field, to = shape.fields[piece], f"values[{numbers.index(piece)}]"
        bounds = f"{field.least}, {field.most}, {to}"
        call = {
            "number": f"decimal(line, size, at, {field.digits_most}, {bounds})",
            "hex": f"hex(line, size, at, {field.width}, {bounds})",
            "byte": f"raw(line, size, at, 1, false, {bounds})",
            "two-bytes": f"raw(line, size, at, 2, false, {bounds})",
            "two-bytes-little": f"raw(line, size, at, 2, true, {bounds})",
        }[field.kind]
        yield f"  if (!{call}) return false;"
    yield "  if (at != size) return false;"
    yield f"  for (uint8_t place = 0; place < {max(len(numbers), 1)}; place++) carried[place] = values[place];"
    yield "  return true;"
    yield "}"
