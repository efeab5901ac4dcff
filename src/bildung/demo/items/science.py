"""Science from kindergarten to grade 8."""

from __future__ import annotations

import random

from bildung.demo.items import pictures
from bildung.demo.items.build import (
    Maker,
    choice,
    gaps,
    match,
    number,
    order,
    reason,
    several,
    table,
    two_part,
    writing,
)
from bildung.formats.itemlist import ItemRecord, StimulusRecord

STANDARDS: dict[str, tuple[str, str]] = {
    "SK.1": ("Tell living things from things that are not", "living and not living"),
    "SK.2": ("Describe the weather", "talking about the weather"),
    "SK.3": ("Sort things by what they are made of", "what things are made of"),
    "S1.1": ("Name the parts of a plant", "parts of plants"),
    "S1.2": ("Tell day, night and seasons", "day, night and seasons"),
    "S1.3": ("Describe how sound and light travel", "sound and light"),
    "S2.1": ("Match animals with where they live", "animals and their homes"),
    "S2.2": ("Tell solid, liquid and gas", "solid, liquid, gas"),
    "S2.3": ("Read a simple table of measurements", "reading tables"),
    "S3.1": ("Put the stages of a life cycle in order", "life cycles"),
    "S3.2": ("Describe pushes, pulls and magnets", "forces and magnets"),
    "S3.3": ("Read weather data", "reading weather data"),
    "S4.1": ("Follow energy from one thing to another", "energy"),
    "S4.2": ("Explain how rock and soil wear away", "rock and soil"),
    "S4.3": ("Read a bar chart", "reading charts"),
    "S5.1": ("Follow food chains", "food chains"),
    "S5.2": ("Tell mixtures from solutions", "mixtures"),
    "S5.3": ("Describe the movement of earth, moon and sun", "earth, moon and sun"),
    "S6.1": ("Describe cells and what they do", "cells"),
    "S6.2": ("Use density to predict what floats", "floating and sinking"),
    "S6.3": ("Plan a fair test", "fair tests"),
    "S7.1": ("Describe systems of the body", "the body"),
    "S7.2": ("Tell physical from chemical change", "chemical change"),
    "S7.3": ("Use speed, distance and time", "speed"),
    "S8.1": ("Describe how traits are passed on", "heredity"),
    "S8.2": ("Use the law of the lever", "levers"),
    "S8.3": ("Judge evidence for a claim", "judging evidence"),
}
# question|right|wrong|wrong|wrong, by standard
FACTS: dict[str, tuple[str, ...]] = {
    "SK.1": (
        "Which of these is alive?|a crab|a shell|a stone|a rope",
        "What does every living thing need?|water|shoes|a lamp|a house",
        "Which one grows?|a tree|a cup|a chair|a bell",
    ),
    "SK.2": (
        "What falls when it is very cold?|snow|leaves only|sand|salt",
        "What do we see in the sky before rain?|dark clouds|many stars|a rainbow only|nothing",
    ),
    "SK.3": (
        "What is a window pane made of?|glass|wool|paper|wood",
        "Which thing can you bend?|a rope|a brick|a plate|a key",
    ),
    "S1.1": (
        "Which part of a plant takes up water?|the roots|the flower|the leaf|the seed",
        "Which part makes seeds?|the flower|the stem|the root|the soil",
        "What do leaves need to make food?|light|darkness|salt|noise",
    ),
    "S1.2": (
        "Why is it dark at night?|our side of the earth is turned away from the sun|the sun goes out|clouds cover the sun|the moon covers the sun",
        "Which season comes after winter?|spring|fall|summer|winter again",
    ),
    "S1.3": (
        "What makes a drum sound?|its skin moves to and fro|its color|the air is cold|it is round",
        "What happens to light at a mirror?|it is thrown back|it stops|it becomes sound|it becomes water",
    ),
    "S2.1": (
        "What helps a duck to swim?|webbed feet|a long tail|big ears|hard teeth",
        "Where does a lugworm live?|in wet sand|in trees|in the air|in dry rock",
    ),
    "S2.2": (
        "What becomes of ice in the sun?|it melts to water|it becomes sand|it stays the same|it burns",
        "Which is a gas?|air|milk|sand|wax",
        "What keeps its shape in any glass?|a stone|water|oil|steam",
    ),
    "S3.1": (
        "What comes out of a frog's egg?|a tadpole|a frog|a fish|a worm",
        "What does a seed need first to sprout?|water|flowers|bees|wind",
    ),
    "S3.2": (
        "What does a magnet pull?|an iron nail|a wooden spoon|a glass bead|a paper boat",
        "What slows a sledge on sand?|friction|light|sound|cold",
        "Two north poles of magnets are put together. What happens?|they push each other away|they pull each other|nothing at all|they get hot",
    ),
    "S3.3": (
        "What does a thermometer measure?|temperature|wind|rain|light",
        "What is the wind measured with?|an anemometer|a ruler|a scale|a clock",
    ),
    "S4.1": (
        "What kind of energy has a stretched bow?|stored energy|sound|light|heat only",
        "What becomes of most of a lamp's energy in an old bulb?|heat|sound|movement|nothing",
        "Which of these needs no fuel?|a sailing boat|a motor boat|a gas stove|a petrol car",
    ),
    "S4.2": (
        "What carries sand along the coast?|waves and currents|sunlight|gulls|salt",
        "What splits rock in winter?|water that freezes in cracks|snow on top|cold air alone|short days",
    ),
    "S4.3": ("What does the height of a bar show?|how many there are|when it was drawn|its color|who counted",),
    "S5.1": (
        "Which one makes its own food?|seaweed|a crab|a gull|a seal",
        "What happens to gulls if all small fish die?|they find less food|they grow larger|they turn into fish|nothing",
        "What do fungi do in the soil?|break down what is dead|eat living fish|make light|stop rain",
    ),
    "S5.2": (
        "How do you get salt out of salt water?|let the water evaporate|pour it through a cloth|stir it|use a magnet",
        "Which is a solution?|sugar in tea|sand in water|oil on water|stones in a bucket",
    ),
    "S5.3": (
        "How long does the earth need to go once round the sun?|a year|a day|a month|a week",
        "Why does the moon seem to change its shape?|we see different parts of its lit side|it grows and shrinks|clouds cover it|the earth eats it",
    ),
    "S6.1": (
        "Which part of a cell holds the plan of the organism?|the nucleus|the membrane|the wall|the sap",
        "What do plant cells have that animal cells lack?|a cell wall|a nucleus|a membrane|cytoplasm",
        "Where in the plant cell is sugar made?|in the chloroplasts|in the nucleus|in the wall|in the membrane",
    ),
    "S6.2": (
        "An egg sinks in fresh water and floats in salt water. Why?|salt water has the greater density|the egg gets lighter|salt lifts the egg by itself|fresh water is colder",
        "A block has a density of 0.8 g/cm³. What does it do in water?|it floats|it sinks|it dissolves|it hovers below the surface for ever",
    ),
    "S6.3": (
        "Why is only one thing changed in a fair test?|so that its effect can be seen|to save time|because more is forbidden|to make it look neat",
        "What is a control?|the same test without the change|the person who watches|the best result|the first result",
    ),
    "S7.1": (
        "What do red blood cells carry?|oxygen|food only|sound|bones",
        "Where is food mostly taken up into the blood?|in the small intestine|in the stomach|in the mouth|in the lungs",
    ),
    "S7.2": (
        "Which is a chemical change?|iron rusts|ice melts|paper is torn|sugar dissolves",
        "What tells that a new substance was formed?|a gas and another color appear|it is in another glass|it is stirred|it is cut smaller",
        "What stays the same in a chemical reaction?|the total mass|the color|the smell|the shape",
    ),
    "S7.3": (
        "What does a flat line in a distance-time graph mean?|it stands still|it goes fastest|it goes back|it slows down",
    ),
    "S8.1": (
        "Two brown-eyed parents have a blue-eyed child. What is true of the parents?|both carry the trait for blue eyes|neither carries it|only one carries it|they have blue eyes at night",
        "Where are genes found?|on chromosomes|in blood only|in the skin only|in food",
    ),
    "S8.2": (
        "Where on a see-saw does a light child balance a heavy one?|farther from the middle|nearer to the middle|at the same distance|nowhere",
    ),
    "S8.3": (
        "Which study shows best that a feed makes fish grow?|two like groups, only one gets the feed|one group that gets the feed|the opinion of the seller|a photograph of a large fish",
        "Two things happen together. What follows?|one may cause the other, or something else causes both|the first causes the second|the second causes the first|nothing can ever be said",
    ),
}
SORTS: dict[str, tuple[str, str]] = {
    "SK.1": (
        "Sort: alive or not alive.",
        "a gull=alive|grass=alive|a snail=alive|a stone=not alive|a boat=not alive|a spoon=not alive",
    ),
    "SK.3": (
        "What is each thing made of?",
        "a plank=wood|a ladder=wood|a key=metal|a nail=metal|a sail=cloth|a shirt=cloth",
    ),
    "S1.2": (
        "When do we see it?",
        "the sun high up=by day|blue sky=by day|many stars=at night|an owl that hunts=at night",
    ),
    "S2.1": (
        "Where does each animal live?",
        "a crab=on the shore|a lugworm=on the shore|a squirrel=in the wood|a woodpecker=in the wood|a cod=in the sea|a seal=in the sea",
    ),
    "S2.2": ("Sort: solid, liquid or gas.", "ice=solid|a brick=solid|milk=liquid|rain=liquid|steam=gas|air=gas"),
    "S3.2": (
        "Does a magnet pull it?",
        "an iron nail=yes|a steel pin=yes|a copper coin=no|a wooden spoon=no|a glass bead=no",
    ),
    "S4.1": (
        "Which sources renew themselves?",
        "wind=renews itself|tides=renews itself|sunlight=renews itself|coal=does not|oil=does not",
    ),
    "S5.1": (
        "What part do they play in the salt marsh?",
        "sea grass=producer|seaweed=producer|a heron=consumer|a crab=consumer|bacteria=decomposer|fungi=decomposer",
    ),
    "S5.2": (
        "Mixture or solution?",
        "sand in water=mixture|oil on water=mixture|salt in water=solution|sugar in tea=solution",
    ),
    "S6.1": (
        "Which belongs to which cell?",
        "cell wall=plant cells only|chloroplasts=plant cells only|nucleus=plant and animal cells|membrane=plant and animal cells",
    ),
    "S7.2": (
        "Physical or chemical change?",
        "ice melts=physical|glass breaks=physical|wood burns=chemical|iron rusts=chemical|milk turns sour=chemical",
    ),
    "S8.1": (
        "Inherited or acquired?",
        "blood group=inherited|color of the eyes=inherited|a scar=acquired|speaking Danish=acquired",
    ),
}
ORDERS: dict[str, tuple[str, ...]] = {
    "SK.2": ("From the coldest to the warmest", "ice", "cold sea water", "a warm bath", "boiling soup"),
    "S1.1": ("How a bean grows", "seed", "root and shoot", "leaves", "flower", "pod"),
    "S3.1": ("The life of a frog", "egg", "tadpole", "tadpole with legs", "froglet", "frog"),
    "S4.2": (
        "How a beach is made",
        "rock breaks off",
        "waves roll the pieces",
        "pieces become pebbles",
        "pebbles become sand",
    ),
    "S5.1": ("A food chain, from the first", "algae", "mussel", "starfish", "gull"),
    "S5.3": ("From the smallest to the largest", "moon", "earth", "sun", "the Milky Way"),
    "S6.3": (
        "The steps of a fair test",
        "ask a question",
        "say what you expect",
        "change one thing and measure",
        "compare with the control",
        "draw a conclusion",
    ),
    "S7.1": ("The way of food", "mouth", "gullet", "stomach", "small intestine", "large intestine"),
    "S8.3": (
        "From the weakest to the strongest evidence",
        "a story",
        "several cases",
        "a comparison of like groups",
        "many comparisons together",
    ),
}
SENTENCES: dict[str, tuple[str, dict[str, tuple[str, ...]]]] = {
    "S1.3": (
        "<p>Sound needs {a} to travel; light travels {b}.</p>",
        {"a": ("something", "nothing", "darkness"), "b": ("faster", "slower", "never")},
    ),
    "S2.2": (
        "<p>Water that boils becomes {a}; cooled again it becomes {b}.</p>",
        {"a": ("steam", "ice", "sand"), "b": ("water", "air", "oil")},
    ),
    "S4.1": (
        "<p>A lamp turns {a} energy into light and {b}.</p>",
        {"a": ("electrical", "sound", "stored"), "b": ("heat", "wind", "water")},
    ),
    "S5.3": (
        "<p>The earth turns once a {a}; the moon goes round it in about a {b}.</p>",
        {"a": ("day", "week", "year"), "b": ("month", "day", "year")},
    ),
    "S6.2": (
        "<p>What is {a} dense than water floats; what is {b} dense sinks.</p>",
        {"a": ("less", "more"), "b": ("more", "less")},
    ),
    "S7.1": (
        "<p>The {a} pumps blood; the {b} take up oxygen.</p>",
        {"a": ("heart", "liver", "brain"), "b": ("lungs", "kidneys", "bones")},
    ),
    "S8.1": (
        "<p>A trait that shows with one copy is {a}; one that needs two is {b}.</p>",
        {"a": ("dominant", "recessive", "acquired"), "b": ("recessive", "dominant", "acquired")},
    ),
}


def items(grade: str, rng: random.Random) -> list[ItemRecord]:
    maker = Maker(prefix=f"S{grade}", subject="Science", grade=grade, rng=rng)
    for standard, (text, _) in ((s, t) for s, t in STANDARDS.items() if s.startswith(f"S{grade}.")):
        topic = text.split()[-1].lower()
        for at, row in enumerate(FACTS.get(standard, ())):
            question, right, *wrong = row.split("|")
            made = choice(rng, question, right, wrong)
            maker.put(standard, reason(made) if at == 1 and grade in "5678" else made, 1 + (at > 1), topic, 45)
        if standard in SORTS:
            body, rows = SORTS[standard]
            pairs = [(row.split("=")[0], row.split("=")[1]) for row in rows.split("|")]
            maker.put(standard, match(rng, body, pairs, True), 2, topic, 75)
        if standard in ORDERS:
            head, *steps = ORDERS[standard]
            maker.put(standard, order(rng, f"{head}: put them in order.", steps), 2, topic, 75)
        if standard in SENTENCES:
            body, keys = SENTENCES[standard]
            maker.put(standard, gaps(body, dict(keys)), 1, topic, 45)
    _data(maker, grade)
    return maker.items


def _data(maker: Maker, grade: str) -> None:
    """A stimulus of each grade with questions about it: a picture, a chart or a table with drawn numbers."""
    rng = maker.rng
    if grade in "K1":
        part = {
            "type": "point",
            "picture": "plant.png",
            "told": "a bean plant with flower, leaves, stem and roots in the soil",
            "width": 400,
            "height": 480,
        }
        for asked, area in (
            ("flower", "circle 200 90 48"),
            ("roots", "rect 105 345 295 460"),
            ("leaf", "circle 120 210 46|circle 280 180 46|circle 130 280 46"),
        ):
            body = {
                "shown": {
                    "body": f"<p>Point to {'a' if asked == 'leaf' else 'the'} {asked} of the plant.</p>",
                    "parts": [part],
                },
                "scoring": [{"key": area}],
            }
            maker.put("S1.1" if grade == "1" else "SK.1", body, 1, "plants", 40, media={"plant.png": pictures.plant()})
        return
    kinds = rng.sample(("crabs", "mussels", "snails", "shrimps", "worms"), 4)
    counts = {kind: rng.randrange(4, 24) for kind in kinds}
    while len(set(counts.values())) < 4:
        counts = {kind: rng.randrange(4, 24) for kind in kinds}
    most = max(counts, key=lambda k: counts[k])
    standard = {"2": "S2.3", "3": "S3.3", "4": "S4.3", "5": "S5.1", "6": "S6.3", "7": "S7.3", "8": "S8.3"}[grade]
    media: dict[str, bytes] = {}
    if grade == "4":
        told = "A bar chart of animals counted on one meter of shore: " + ", ".join(
            f"{k} {n}" for k, n in counts.items()
        )
        stimulus = StimulusRecord(
            code="DAT-4",
            title="Animals on the shore",
            kind="picture",
            html="",
            numbered=False,
            media="chart.png",
            told=told,
            credit="counted by grade 4",
        )
        media = {"chart.png": pictures.bars("Animals on the shore", counts, "on one meter")}
    elif grade in "23":
        days = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday")
        counts = dict(zip(days, rng.sample(range(3, 19), 5), strict=True))
        most = max(counts, key=lambda k: counts[k])
        stimulus = StimulusRecord(
            code=f"DAT-{grade}",
            title="Noon at the harbor",
            kind="table",
            html=table(("Day", "Temperature in °C"), list(counts.items())),
            credit="measured by the class",
        )
    else:
        stimulus = StimulusRecord(
            code=f"DAT-{grade}",
            title="Animals in the salt marsh",
            kind="data",
            html=table(("Animal", "Counted on 1 m²"), list(counts.items())),
            credit="counted by the class",
        )
    names = list(counts)
    a, b = names[0], names[1]
    ask = "Which day was the warmest?" if grade in "23" else "Which animal was found most often?"
    maker.put(
        standard, choice(rng, ask, most, [n for n in names if n != most][:3]), 1, "data", 45, stimulus, media=media
    )
    gap = abs(counts[a] - counts[b])
    asked = (
        f"How many degrees lie between {a} and {b}?"
        if grade in "23"
        else f"How many more of one than of the other were there, {a} and {b}?"
    )
    maker.put(
        standard,
        number(asked, str(gap), notes=[(str(counts[a] + counts[b]), "adds")]),
        2,
        "data",
        60,
        stimulus,
        media=media,
    )
    above = sorted(counts.values())[len(counts) // 2 - 1]
    right = [n for n, v in counts.items() if v > above]
    maker.put(
        standard,
        several(rng, f"Choose all with more than {above}.", right, [n for n in names if n not in right]),
        2,
        "data",
        60,
        stimulus,
        media=media,
    )
    if grade in "5678":
        mean = number(
            "Find the mean of all, to one place.",
            f"{sum(counts.values()) / len(counts):.1f}~0.05",
            notes=[(str(sum(counts.values())), "does not divide")],
        )
        says = choice(
            rng,
            "Which statement do the numbers support?",
            f"{most.capitalize()} were the most common where it was counted",
            [
                f"{most.capitalize()} are the most common everywhere",
                f"There will be no {names[-1] if names[-1] != most else names[0]} next year",
            ],
        )
        maker.put(
            standard,
            two_part("<p>Use the table.</p>", mean, says, depends=False),
            3,
            "data",
            120,
            stimulus,
            media=media,
        )
        criteria = [
            ("Uses the numbers", ("none", "one number", "two numbers compared")),
            ("Concludes with care", ("goes beyond the numbers", "says what they can and cannot show")),
        ]
        maker.put(
            standard,
            writing(
                "<p>Somebody says: “The marsh is healthy.” What do the numbers say, and what do they not say?</p>",
                criteria,
                f"There were {counts[most]} {most}, more than {counts[a]} {a}. But it was counted once and in one place, so it does not show whether the marsh is healthy.",
            ),
            3,
            "data",
            300,
            stimulus,
            media=media,
        )
    if grade == "7":
        for speed, hours in ((12, 2.5), (18, 1.5), (24, 0.75)):
            maker.put(
                "S7.3",
                number(
                    f"A ferry goes {speed} km/h for {hours:g} hours. How far does it go?",
                    f"{speed * hours:g}",
                    "km",
                    [(f"{speed / hours:g}", "divides")],
                    f"{speed} km/h · {hours:g} h = {speed * hours:g} km.",
                ),
                2,
                "speed",
                75,
            )
    if grade == "8":
        for force, arm, other in ((20, 3, 2), (45, 2, 3), (60, 1.5, 2)):
            maker.put(
                "S8.2",
                number(
                    f"A weight of {force} N hangs {arm:g} m from the middle of a lever. Which force {other} m from the middle on the other side holds it?",
                    f"{force * arm / other:g}",
                    "N",
                    [(f"{force * other / arm:g}", "turns the arms round")],
                ),
                2,
                "levers",
                90,
            )
