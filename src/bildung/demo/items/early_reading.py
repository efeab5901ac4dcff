"""Reading from kindergarten to grade 5: short passages about Brackwater with questions of many kinds."""

from __future__ import annotations

import random
from dataclasses import dataclass

from bildung.demo.items.build import Maker, choice, gaps, match, order, pick, reason, two_part, writing
from bildung.demo.reading import SKILLS
from bildung.formats.itemlist import ItemRecord, StimulusRecord

STANDARDS: dict[str, tuple[str, str]] = {f"R{g}.{n}": words for g in "K12345" for n, words in SKILLS.items()}


@dataclass(frozen=True, kw_only=True)
class Tale:
    """sentences: in the order they happen; why: the place, from 0, of the one that gives the reason asked for."""

    grade: str
    title: str
    sentences: tuple[str, ...]
    where: tuple[str, str, str]
    asked: str
    why: int
    feeling: tuple[str, str, str]
    about: tuple[str, str, str]
    word: tuple[str, str, str, str]
    untrue: tuple[str, str]


def _tale(
    grade: str,
    title: str,
    text: str,
    where: str,
    asked: str,
    why: int,
    feeling: str,
    about: str,
    word: str,
    untrue: str,
) -> Tale:
    def three(row: str) -> tuple[str, str, str]:
        a, b, c = row.split("|")
        return a, b, c

    w1, w2, w3, w4 = word.split("|")
    u1, u2 = untrue.split("|")
    return Tale(
        grade=grade,
        title=title,
        sentences=tuple(text.split("|")),
        where=three(where),
        asked=asked,
        why=why,
        feeling=three(feeling),
        about=three(about),
        word=(w1, w2, w3, w4),
        untrue=(u1, u2),
    )


TALES = (
    _tale(
        "K",
        "The red ball",
        "Mo has a red ball.|He kicks it to the sea.|A wave takes the ball.|Mo is sad.|A dog jumps in.|The dog brings the ball back.",
        "in the sea|in a box|in a tree",
        "Why is Mo sad?",
        2,
        "glad|angry|tired",
        "a ball that is lost and found|a dog that is ill|a boat that sinks",
        "brings|carries|eats|hides",
        "Mo has a blue ball.|The dog runs away.",
    ),
    _tale(
        "K",
        "The hen on the boat",
        "A hen sits on a boat.|The boat goes out.|The hen is afraid.|Ana gives her corn.|The hen eats.|Then the hen sleeps.",
        "on a boat|in a house|on a hill",
        "Why does Ana give corn?",
        2,
        "calm|angry|hungry",
        "a hen that goes on a trip|a boat that is mended|corn that is sold",
        "afraid|scared|happy|fast",
        "The hen is in a tree.|Ana eats the corn.",
    ),
    _tale(
        "1",
        "The lost mitten",
        "Lena walks to school in the snow.|She takes off one mitten to feel the snow.|The mitten falls behind the wall.|At school her hand is cold.|Her friend Tom looks along the path.|He finds the mitten and brings it to her.",
        "behind the wall|under the bed|in the bus",
        "Why is her hand cold?",
        2,
        "thankful|bored|cross",
        "a friend who helps|a day without snow|a new school",
        "looks along|searches|jumps over|paints",
        "Lena loses her hat.|Tom keeps the mitten.",
    ),
    _tale(
        "1",
        "Grandpa's radio",
        "Grandpa's old radio was silent.|Bea opened it with him.|They saw a wire that was loose.|Grandpa put the wire back.|Bea turned the knob.|Music filled the kitchen.",
        "in the kitchen|on the beach|at school",
        "Why was the radio silent?",
        2,
        "proud|lonely|afraid",
        "mending something together|buying a radio|learning to cook",
        "silent|quiet|broken in two|heavy",
        "The radio was new.|Bea broke the knob.",
    ),
    _tale(
        "2",
        "The night of the seals",
        "In spring a baby seal lay alone on the beach.|Its mother was out hunting for fish.|Some children wanted to carry it home.|The warden asked them to stay far away, because the mother comes back only when all is quiet.|They waited behind the dunes until dark.|At last the mother came and called her young one.",
        "on the beach|in the harbor|on an island",
        "Why should the children stay far away?",
        3,
        "relieved|disappointed|bored",
        "how waiting helped a seal|how to catch fish|why dunes move",
        "warden|somebody who looks after a place|a kind of seal|a fisherman’s boat",
        "The children took the seal home.|The mother never came.",
    ),
    _tale(
        "2",
        "A bridge of planks",
        "The stream behind the school was deep after the rain.|Nobody could get to the garden.|Ines found four planks in the shed.|The first bridge slipped, since the stones were wet.|They put sand under the planks.|Now the whole class walks across it.",
        "behind the school|at the harbor|in the hills",
        "Why did the first bridge slip?",
        3,
        "satisfied|worried|jealous",
        "trying again until it works|a dangerous storm|how sand is made",
        "shed|a small house for tools|a deep stream|a wet stone",
        "The planks came from a shop.|The bridge was never finished.",
    ),
    _tale(
        "3",
        "The paper harbor",
        "For the summer fair, grade 3 built the harbor of Brackwater from paper.|Each pair chose one building and measured it on an old plan.|The lighthouse became too tall, because Sam had read meters as feet.|Instead of throwing it away, they placed it on a hill of boxes where it looked far off.|Visitors praised the view most of all.|Sam learned to check the unit before he measures.",
        "at the summer fair|in the museum|on the ferry",
        "Why did the lighthouse become too tall?",
        2,
        "pleased|ashamed|indifferent",
        "turning a mistake into something good|how lighthouses work|a fair that was called off",
        "praised|said good things about|paid for|looked for",
        "The lighthouse was thrown away.|Each pupil built three houses.",
    ),
    _tale(
        "3",
        "The weather log",
        "Every morning at eight, Noor wrote down the wind, the clouds and the height of the tide.|At first she thought that nothing would repeat.|After five weeks she noticed that high tide came about fifty minutes later each day.|The harbor master smiled, for the moon causes this delay.|Noor drew a table for the coming month.|When the month was over, nearly every line was right.",
        "at the harbor|in a forest|at the airport",
        "Why does high tide come later each day?",
        3,
        "curious|discouraged|jealous",
        "finding a rule by careful notes|a storm that nobody expected|a boat race",
        "delay|coming later|height of water|strong wind",
        "Noor wrote in the evening.|Nothing in her table was right.",
    ),
    _tale(
        "4",
        "The orchard on the dyke",
        "When the old dyke was raised, the builders wanted to fell the nine apple trees that grew on it.|Their roots, they said, would loosen the clay.|A class from Elder Quay dug carefully beside one tree and drew what they found.|The roots ran flat and held the grass together rather than breaking the slope.|The council looked at the drawings and let six trees stand.|Every fall the class still gathers the apples of those six.",
        "on the old dyke|in the school yard|by the mill",
        "Why did the builders want to fell the trees?",
        1,
        "persuaded|bitter|amused",
        "evidence that changed a decision|how to bake with apples|why dykes are dangerous",
        "fell|cut down|plant|climb",
        "All nine trees were cut down.|The class used a machine to dig.",
    ),
    _tale(
        "4",
        "Letters in a bottle",
        "In 1911 a cook on the ferry put a letter into a bottle and threw it overboard.|He wanted to learn where the current would carry it.|The bottle lay for more than a century in the mud of the salt marsh.|Two sisters found it when the creek changed its course after a storm.|The ink had faded, but under a lamp the words could be read again.|The letter now hangs in the town hall, next to a map of the current.",
        "in the salt marsh|on the ferry|in a cellar",
        "Why did the cook throw the bottle overboard?",
        1,
        "fascinated|frightened|offended",
        "an old question answered by chance|how ink is made|a ferry accident",
        "faded|become pale|dried hard|turned red",
        "The letter was thrown away.|The sisters wrote the letter.",
    ),
    _tale(
        "5",
        "The quiet engine",
        "For years the morning ferry woke half the town, and complaints filled a whole drawer at the council.|The company offered to leave an hour later, but the fish market depended on the early crossing.|A retired engineer proposed something else: to line the engine room with pressed seaweed, which swallows sound.|Few believed her, so she first wrapped a barking dog's kennel, and the neighbors asked whether the dog had died.|The ferry now leaves at five as before, and most people sleep through it.|The company sells the panels to other harbors.",
        "in a harbor town|on a mountain|in a factory abroad",
        "Why could the ferry not simply leave later?",
        1,
        "convinced|resentful|nostalgic",
        "an unusual idea that was tested before it was used|why dogs bark at night|the history of fish markets",
        "proposed|suggested|refused|repaired",
        "The ferry leaves an hour later now.|The engineer worked for the company.",
    ),
    _tale(
        "5",
        "What the wall remembers",
        "When the bakery's plaster came off, a row of pencil lines appeared on the bricks.|Each line bore a date and a name, and the topmost was higher than a door.|At first people took them for a game, children measured by a very tall aunt.|The librarian compared the dates with old newspapers and found a flood on each of them.|The lines showed how high the water had stood.|The baker had them covered with glass, and the town moved its new school up the hill.",
        "in the bakery|in the library|at the new school",
        "Why did people first think that it was a game?",
        2,
        "cautious|careless|envious",
        "what old marks can teach|how bread was baked|a family of tall people",
        "bore|carried|made a hole in|made tired",
        "The lines showed how tall children were.|The lines were painted over.",
    ),
)


def items(grade: str, rng: random.Random) -> list[ItemRecord]:
    maker = Maker(prefix=f"R{grade}", subject="Reading", grade=grade, rng=rng)
    tales = [t for t in TALES if t.grade == grade]
    for at, tale in enumerate(tales, 1):
        html = (
            f"<p>{' '.join(tale.sentences)}</p>"
            if grade in "K1"
            else "".join(f"<p>{' '.join(tale.sentences[n : n + 3])}</p>" for n in (0, 3))
        )
        stimulus = StimulusRecord(
            code=f"TXT-{grade}{at}",
            title=tale.title,
            kind="passage",
            html=html,
            numbered=grade not in "K1",
            credit="written for the district",
        )
        _about(maker, tale, stimulus)
    return maker.items


def _about(maker: Maker, tale: Tale, stimulus: StimulusRecord) -> None:
    rng, grade = maker.rng, tale.grade
    seconds = 45 + 15 * "K12345".index(grade)

    def put(skill: str, content: dict, depth: int) -> None:  # type: ignore[type-arg]
        maker.put(f"R{grade}.{skill}", content, depth, "passages", seconds, stimulus)

    where, *elsewhere = tale.where
    key = tale.sentences[tale.why]
    put(
        "1",
        choice(
            rng,
            "Where does this happen, or where is it found?" if grade not in "K1" else "Where is it?",
            where[0].upper() + where[1:],
            [w[0].upper() + w[1:] for w in elsewhere],
        ),
        1,
    )
    put(
        "1",
        match(
            rng,
            "Which sentences are true of the text, and which are not?",
            [(tale.sentences[1], "true"), (tale.sentences[4], "true"), *((u, "not true") for u in tale.untrue)],
            True,
        ),
        1,
    )
    put(
        "2",
        pick(
            f"<p>{tale.asked}</p><p>Choose the sentence that tells it.</p>",
            [(s, n == tale.why) for n, s in enumerate(tale.sentences)],
        ),
        2,
    )
    put("3", order(rng, "What happens first, next and last?", [tale.sentences[n] for n in (0, 2, 3, 5)]), 2)
    feeling, *others = tale.feeling
    base = choice(rng, "How do they most likely feel at the end?", feeling, others)
    put("4", base if grade in "K12" else reason(base, "<p>Which words of the text tell you?</p>"), 3)
    about, *away = tale.about
    put(
        "5",
        choice(
            rng,
            "What is the text about as a whole?",
            about[0].upper() + about[1:],
            [a[0].upper() + a[1:] for a in away],
        ),
        2,
    )
    word, meaning, *no = tale.word
    put("6", gaps(f"<p>In this text <b>{word}</b> means {{m}}.</p>", {"m": (meaning, *no)}), 2)
    if grade in "45":
        first = choice(
            rng,
            "Which sentence says best what the text is about?",
            about[0].upper() + about[1:],
            [a[0].upper() + a[1:] for a in away],
        )
        second = choice(
            rng, "Which sentence of the text shows it best?", tale.sentences[4], [tale.sentences[0], tale.sentences[2]]
        )
        put("5", two_part("<p>About the text as a whole.</p>", first, second), 3)
    if grade in "2345":
        criteria = [
            ("Says what happened", ("nothing that fits", "one event", "the events that matter, in order")),
            ("Says why", ("no reason", "a reason from the text")),
        ]
        put(
            "4",
            writing(
                f"<p>{tale.asked} Write it in your own words, and what came of it.</p>",
                criteria,
                f"{key} In the end: {tale.sentences[5]}",
                5,
            ),
            3,
        )
