"""Plans with next to nothing in them: their programs compile all the same, with all warnings as errors, and run."""

from pathlib import Path

import pytest

from oddlamp.core.plan.document import Document, merge_patch
from tests.builders import CLEAR
from tests.core.test_modules_on_the_line import WIFI
from tests.firmware.proof import Proof, agree, design_of
from tests.firmware.star import STAR
from tests.firmware.test_radio import over

NO_WORDS: Document = {"vocabularies": {"words": {"words": {"on": None, "off": None}}}, "rules": {"r1": None, "r2": None}}
ONLY_SAYS: Document = {
    "vocabularies": {"words": {"words": {"on": {"direction": "back"}, "off": None}}},
    "rules": {
        "r1": {"when": {"heard": None, "every_s": 1}, "do": [{"verb": "say", "say": {"talk": "main", "word": "on"}}]},
        "r2": None,
    },
}
NO_STAR: Document = {
    "vocabularies": {"words": {"words": dict.fromkeys(STAR["vocabularies"]["words"]["words"])}},
    "rules": dict.fromkeys(STAR["rules"]),
    "nodes": {"phone": {"controls": None}},
}
BARE: Document = {
    **dict.fromkeys(("vocabularies", "talks", "rules", "lamps", "links", "signals")),
    "nodes": {"phone": None, "radio": None},
}
EMPTY = {
    "no words": merge_patch(CLEAR, NO_WORDS),
    "nothing but a wire": merge_patch(CLEAR, {**NO_WORDS, "lamps": {"lamp": None}}),
    "a board alone": merge_patch(CLEAR, BARE),
    "a board that only says": merge_patch(CLEAR, ONLY_SAYS),
    "a module and no words": merge_patch(merge_patch(CLEAR, WIFI), NO_WORDS),
    "a module and a board that only says": merge_patch(merge_patch(CLEAR, WIFI), ONLY_SAYS),
    "a radio and no words": over("websocket", NO_STAR),
    "a radio and no lamps": over("mqtt", {"lamps": {"lamp": None, "far": None}, "rules": dict.fromkeys(STAR["rules"])}),
    "a line where a browser looks": over("tcp", {"links": {"lan": {"port": 80}}}),
}


@pytest.mark.parametrize("name", EMPTY)
def test_next_to_nothing_compiles_and_runs(name: str, tmp_path: Path) -> None:
    proof = Proof(design_of(EMPTY[name]), "board", tmp_path)
    if any(it["commands"] for it in proof.all["ears"]):
        proof.ran([(3000, "E", 0, 0)], proof.begun(0, {}))
        return
    agree(proof, [(3000, "E", 0, 0)], 0)
