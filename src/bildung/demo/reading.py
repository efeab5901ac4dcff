"""Reading items: short passages about Brackwater, each with questions; words in context."""

from __future__ import annotations

import random
from dataclasses import dataclass

from bildung.demo.draft import Draft

SKILLS = {
    "1": ("Find stated details in a text", "finding what a text says"),
    "2": ("State why something in a text happens", "finding reasons in a text"),
    "3": ("Put the events of a text in order", "putting events in order"),
    "4": ("Draw a conclusion that a text supports", "reading between the lines"),
    "5": ("Tell what a text is about as a whole", "finding the main idea"),
    "6": ("Work out the meaning of a word from its context", "working out new words"),
}
STANDARDS: dict[str, tuple[str, str]] = {f"R{g}.{n}": words for g in "678" for n, words in SKILLS.items()}


@dataclass(frozen=True, kw_only=True)
class Story:
    who: str
    where: str
    thing: str
    trouble: str
    reason: str
    first: str
    then: str
    outcome: str
    feeling: str
    about: str


STORIES = tuple(
    Story(**dict(zip(Story.__dataclass_fields__, row.split("|"), strict=True)))
    for row in (
        "Tove|the boathouse|an old rowing boat|the planks let water in|they had dried out over two summers|asked her "
        "uncle which planks to keep|soaked the hull for nine days|the boat floated without a drop inside|patient|mending "
        "a boat takes waiting as much as work",
        "Malik|the signal tower|a brass lamp|the light flickered in every storm|salt had crept under the glass|wrote down "
        "each time it flickered|took the glass off and cleaned the rim|the lamp burned steadily through the next gale|proud|"
        "careful notes helped to find a fault",
        "Sunna|the salt marsh|a family of avocets|their nest was flooded at spring tide|the bank had been cut too low|"
        "counted the birds every morning|raised the bank with turf and stones|three chicks left the nest in June|relieved|"
        "a small change protected the birds",
        "Ivo|the market hall|a clock that ran backwards|people missed the noon ferry|a gear had been put in the wrong way "
        "round|drew every wheel before touching it|turned the gear about and oiled it|the clock struck twelve with the "
        "church bell|satisfied|an odd mistake was found by looking closely",
        "Runa|the school garden|a row of bean plants|the leaves turned yellow|the soil held too little iron|compared them "
        "with the beans next door|dug in compost from the kitchen|the new leaves came out green|curious|plants can show "
        "what the soil lacks",
        "Emre|the ferry|a lost letter|nobody knew whose it was|rain had washed the name away|read the date on the stamp|"
        "asked each passenger of that week|an old teacher recognized the handwriting|hopeful|a letter found its way by "
        "patient asking",
        "Leda|the bakery|a sourdough starter|the bread came out flat|the shop had grown colder|measured the warmth at each "
        "shelf|moved the jar beside the oven|the loaves rose as high as before|content|temperature matters to bread",
        "Nils|the quarry path|a rope bridge|one side hung lower than the other|a post had sunk after the rain|closed the "
        "path with a sign|packed gravel around the post|walkers crossed safely by the weekend|careful|safety came before "
        "hurry",
        "Asha|the library|a map of the coast|an island was missing|the map was older than the island|checked the year in "
        "the corner|searched the newspapers for a great storm|she learned that the storm had piled the island up|amazed|"
        "maps show the time they were made in",
        "Otis|the orchard|a hive of bees|they left without warning|the hive stood in the wind|asked the beekeeper where "
        "swarms rest|built a fence of willow|a new swarm settled behind it|glad|bees need shelter",
        "Elin|the harbor wall|a tide gauge|its numbers made no sense|somebody had painted it upside down|compared it with "
        "her own marks|repainted the scale with the harbor master|the ferries could trust it again|determined|checking a "
        "tool matters before trusting it",
        "Karim|the music room|a silent organ pipe|one note was always missing|a starling had nested in the pipe|listened to "
        "each pipe in turn|waited until the young birds had flown|the organ had all its notes for the fall concert|"
        "gentle|waiting can be the kind choice",
        "Mila|the beach|a stranded buoy|nobody could move it|it was filled with sand|asked how it had come ashore|dug a "
        "channel before high tide|the sea carried the buoy off by itself|clever|using the tide did what muscles could not",
        "Jona|the workshop|a kite of sailcloth|it would not climb|the tail was too heavy|tried it with half the tail|"
        "shortened the tail hand by hand|the kite rose over the lighthouse|excited|trying small changes solved a problem",
        "Vera|the old mill|a row of swallows' nests|the roof was to be repaired in May|the builders did not know of the "
        "nests|photographed every nest|asked for the work to wait until September|the builders came back in fall|firm|"
        "speaking up in time protected the swallows",
    )
)
WORDS = (
    (
        "brittle",
        "The rope had grown so brittle that it snapped at a touch.",
        "easily broken",
        "wet",
        "very long",
        "new",
    ),
    ("reluctant", "He was reluctant to leave the warm cabin.", "unwilling", "ready", "unable", "proud"),
    (
        "scarce",
        "Fresh water was scarce on the island, and they measured each cup.",
        "in short supply",
        "salty",
        "cold",
        "free",
    ),
    ("hoist", "Four of them had to hoist the sail.", "pull up", "fold", "mend", "paint"),
    ("vague", "Her answer was so vague that nobody knew what she meant.", "unclear", "loud", "short", "honest"),
    ("peril", "In fog the rocks were a peril to every ship.", "danger", "help", "surprise", "limit"),
    ("diligent", "The diligent clerk checked every line twice.", "hard-working", "tired", "new", "strict"),
    ("subside", "They waited for the storm to subside before they set out.", "grow weaker", "begin", "return", "turn"),
    ("candid", "Thank you for your candid reply; now I know where I stand.", "frank", "quick", "polite", "secret"),
    ("obsolete", "The obsolete engine was kept only for the museum.", "out of use", "very fast", "dangerous", "costly"),
    ("tenacious", "The tenacious limpet would not let go of the stone.", "holding fast", "tiny", "slow", "pretty"),
    (
        "ambiguous",
        "The sign was ambiguous: it could be read in two ways.",
        "open to two meanings",
        "false",
        "old",
        "rude",
    ),
)


def _questions(story: Story, others: list[Story], grade: str) -> list[Draft]:
    s = story
    text = (
        f"<blockquote><p>{s.who} had been looking after {s.thing} at {s.where}, but {s.trouble}. It turned out that "
        f"{s.reason}. First {s.who} {s.first}. Then {s.who} {s.then}. In the end {s.outcome}.</p></blockquote>"
    )

    title = f"{s.who} and {s.thing}"

    def ask(skill: str, question: str, right: str, wrong: tuple[str, ...]) -> Draft:
        return Draft(
            standard=f"R{grade}.{skill}", stem=f"{text}<p>{question}</p>", right=right, wrong=wrong, about=title
        )

    a, b, c = others[:3]
    return [
        ask("1", "Where does this happen?", f"at {s.where}", tuple(f"at {o.where}" for o in (a, b, c))),
        ask(
            "2",
            f"Why was there trouble with {s.thing}?",
            f"because {s.reason}",
            (f"because {a.reason}", f"because {s.outcome}", f"because {b.reason}"),
        ),
        ask(
            "3",
            f"What did {s.who} do first?",
            f"{s.who} {s.first}",
            (f"{s.who} {s.then}", f"{s.who} {a.first}", f"{s.who} {b.then}"),
        ),
        ask("4", f"How does {s.who} most likely feel at the end?", s.feeling, ("ashamed", "bored", "angry")),
        ask(
            "5",
            "Which sentence says best what the text is about?",
            s.about.capitalize(),
            (a.about.capitalize(), f"{s.who} likes {s.where}", b.about.capitalize()),
        ),
        ask(
            "1",
            "How does it end?",
            s.outcome.capitalize(),
            (s.trouble.capitalize(), a.outcome.capitalize(), c.outcome.capitalize()),
        ),
    ]


def draft_items(rng: random.Random, grade: str, count: int) -> list[Draft]:
    """Five passages with six questions each, then words in context."""
    at = "678".index(grade) if grade in "678" else 0
    stories = STORIES[at * 5 : at * 5 + 5]
    drafts: list[Draft] = []
    for story in stories:
        others = rng.sample([o for o in STORIES if o is not story], 3)
        drafts += _questions(story, others, grade)
    for word, sentence, right, *wrong in WORDS[at * 4 : at * 4 + 4]:
        stem = f"<p>{sentence}</p><p>What does <b>{word}</b> mean here?</p>"
        drafts.append(Draft(standard=f"R{grade}.6", stem=stem, right=right, wrong=tuple(wrong)))
    return drafts[:count]
