"""What answers a word: nothing, or how its lamp is now; offered beside each word."""

from collections.abc import Callable
from functools import cache

from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import VocabularyDesign, WordDesign
from oddlamp.core.designer.answers import Answers
from oddlamp.core.designer.spelling import Spelling
from oddlamp.core.english import and_list
from oddlamp.core.plan.document import at_path, join_patches
from oddlamp.sheets.models import Choice, Option

Answering = Callable[[WordDesign], Choice | None]


def answers_of(design: Design, vocabulary: VocabularyDesign) -> Answering:
    """Return what offers, for a word of a vocabulary, how it is answered; None where no rule obeys it, or none can."""
    talks = {it.id for it in design.vocabulary_talks(vocabulary.id)}
    hosts = {it.b for it in design.vocabulary_talks(vocabulary.id)}
    is_single = vocabulary.framing.id == "single-byte"
    outs = [it for it in vocabulary.words if it.direction == "out"]
    reads = sum(len(it.text.partition("{")[0]) > 2 for it in outs) * 2 > len(outs)
    rules = {rule.when.heard: (name, rule) for name, rule in design.plan.rules.items() if rule.host in hosts}
    sayers: dict[str, set[str]] = {}
    for name, rule in design.plan.rules.items():
        for it in rule.do:
            if it.say is not None:
                sayers.setdefault(it.say.word, set()).add(name)
    labels = {it.id: it.label for it in vocabulary.words}
    texts = {it.id: it.text for it in vocabulary.words}

    @cache
    def answers() -> Answers:
        return Answers(design, vocabulary, None, (), set(texts))

    @cache
    def spelling() -> Spelling:
        return Spelling(design, vocabulary, "line" if reads else "letter", is_fixed=vocabulary.framing.id == "fixed")

    def offered(word: WordDesign) -> Choice | None:
        if vocabulary.is_whole or word.direction != "out" or word.id not in rules:
            return None
        name, rule = rules[word.id]
        do = [it.model_dump(mode="json", exclude_none=True) for it in rule.do if it.say is None or it.say.talk not in talks]
        if not do:
            return None
        said = [it.say.word for it in rule.do if it.say is not None and it.say.talk in talks]
        settled = design.plan.vocabularies[vocabulary.id].words[word.id].parameters
        parameters = {key: it.model_dump(mode="json", exclude_none=True) for key, it in settled.items()}
        answer = (
            answers().again(None if is_single else spelling().again().spell).to(word.id, word.label, word.text, parameters, do)
        )
        words = ("vocabularies", vocabulary.id, "words")
        alone = [it for it in said if sayers[it] == {name}]
        gone = {it: design.taking_out.without_word(vocabulary.id, it) for it in alone}
        says = [
            *(patch for word_id, patch in gone.items() if word_id != answer.word_id),
            at_path(("rules", name, "do"), [*do, *answer.says]),
            *([at_path((*words, answer.word_id), answer.word)] if answer.word is not None else []),
        ]
        silent = join_patches([*gone.values(), at_path(("rules", name, "do"), do)]) if said else {}
        none = Option(label="Nothing", patch=silent, is_chosen=not said)
        known = answer.word_id in said or (answer.is_itself and any(texts[it] == word.text for it in said))
        label = "The word itself, once it is done" if answer.is_itself else "How it is now"
        options = [none, Option(label=label, patch={} if known else join_patches(says), is_chosen=known)]
        if said and not known:
            options.append(Option(label=and_list([labels.get(it, it) for it in said]), patch={}, is_chosen=True))
        because = None if said else "nothing waits for an answer unless it is wanted"
        return Choice(
            label=f"What answers {word.label}", origin="own" if said else "proposed", because=because, options=tuple(options)
        )

    return offered
