"""Twenty-five templates in mathematics, whose values are drawn."""

from __future__ import annotations

from typing import Any

from bildung.demo.items.build import LETTERS
from bildung.formats.content import Content, read_content
from bildung.formats.template import Template, read_template

# code | grade | standard | text | right | wrong with what it says; … | variables; … | must hold; …
# a variable: name=low..high, name=low..high/step, name=one,other or name:=computed. Without wrong ones a number is asked for.
ROWS = """
TK-ADD|K|MK.2|There are {a} gulls on the pier. {b} more come. How many are there?|{r}||a=1..5; b=1..4; r:=a+b|
T1-TEEN|1|M1.1|What is {a} + {b}?|{r}|{r1}=counts the first number as well; {r2}=takes away; {r3}=|a=6..9; b=5..9; r:=a+b; r1:=a+b-1; r2:=abs(a-b); r3:=a+b+1|a != b
T1-TENS|1|M1.2|Which number has {t} tens and {o} ones?|{r}|{w}=changes tens and ones; {s}=adds the figures; {x}=|t=2..9; o=1..8; r:=10*t+o; w:=10*o+t; s:=t+o; x:=10*t|t != o; s != w
T2-CARRY|2|M2.1|What is {a} + {b}?|{r}|{w}=forgets the ten that is carried; {d}=takes away; {x}=|a=24..58; b=15..39; r:=a+b; w:=r-10; d:=abs(a-b); x:=r+1|a != b; d != w
T2-GROUPS|2|M2.3|{n} boats carry {k} people each. How many people is that?|{r}||n=3..9; k=2,5,10; r:=n*k|
T2-CHANGE|2|M2.4|A rope costs {c} euros. How much comes back from {p} euros?|{r}|{s}=adds; {c}=gives the price; {x}=|p=10,20,50; c=3..45; r:=p-c; s:=p+c; x:=p-c+10|c < p; r != c; x != c; s != x
T3-TIMES|3|M3.1|A crate holds {a} nets. How many nets are in {b} crates?|{r}|{s}=adds; {o}=one crate too few; {m}=one crate too many|a=3..9; b=4..9; r:=a*b; s:=a+b; o:=a*(b-1); m:=a*(b+1)|s != o
T3-ROUND|3|M3.4|Round {n} to tens.|{r}||n=112..887; r:=round(n/10)*10|n % 10 != 0
T3-AREA|3|M3.3|A deck is {a} m long and {b} m wide. What is its area in m²?|{r}|{w}=finds the way round; {s}=adds the sides; {x}=|a=5..12; b=3..8; r:=a*b; w:=2*(a+b); s:=a+b; x:=r+b|a != b; w != r; w != x
T4-LONG|4|M4.1|What is {a} × {b}?|{r}||a=23..89; b=4..9; r:=a*b|a % 10 != 0
T4-EQUAL|4|M4.2|{a:plain}/{b} is equal to x/{d}. What is x?|{r}||a=1..5; b=3..8; k=2..6; d:=b*k; r:=a*k|a < b; gcd(a, b) == 1
T4-MULTIPLE|4|M4.4|What is the least common multiple of {a} and {b}?|{r}|{p}=multiplies them; {g}=gives the greatest common factor; {s}=adds|a=4..12; b=6..18; r:=lcm(a,b); p:=a*b; g:=gcd(a,b); s:=a+b|a != b; gcd(a, b) > 1; r != s; s != p; r != a; r != b
T5-DECIMAL|5|M5.1|What is {a} + {b}?|{r}|{w}=adds the figures without minding the point; {x}=; {y}=|a=1.1..4.9/0.1; b=1.05..3.95/0.1; r:=a+b; w:=(a*10+b*100)/100; x:=r+0.1; y:=r-0.1|w != r; w != x; w != y; not whole(a)
T5-VOLUME|5|M5.3|A crate is {a} m long, {b} m wide and {c} m high. What is its volume in m³?|{r}||a=2..7; b=2..6; c=2..5; r:=a*b*c|
T6-FRACTION|6|M6.1|What is {p:fraction} + {q:fraction}?|{r:fraction}|{w:fraction}=adds numerators and denominators; {m:fraction}=; {n:fraction}=|a=1..5; b=3..8; c=1..5; d=3..8; p:=a/b; q:=c/d; r:=p+q; w:=(numerator(p)+numerator(q))/(denominator(p)+denominator(q)); m:=abs(p-q); n:=p*q|a < b; c < d; denominator(p) != denominator(q); not whole(r); m != w; n != w; m != n; m > 0
T6-PERCENT|6|M6.2|Of {n} boats {p}% are ferries. How many are that?|{r}||n=40,60,80,120,160,200,240; p=5,15,20,25,30,40,60,75; r:=n*p/100|whole(r)
T6-RATIO|6|M6.3|Two crews share {t} crates in the ratio {a} : {b}. How many does the first crew get?|{r}|{o}=gives the other crew’s; {h}=shares equally; {x}=|a=2..7; b=2..7; u=3..11; t:=(a+b)*u; r:=a*u; o:=b*u; h:=t/2; x:=t-a|a != b; gcd(a, b) == 1; x != r; x != o; h != r
T6-EXPRESSION|6|M6.5|What is {a}n + {b} when n = {x}?|{r}|{w}=adds first; {s}=puts the figures side by side; {y}=adds all|a=2..9; b=1..14; x=2..9; r:=a*x+b; w:=a*(x+b); s:=10*a+x+b; y:=a+x+b|w != r; s != r; y != s; w != s; y != r; w != y
T7-INTEGER|7|M7.1|What is {a} − {b}?|{r}||a=2..12; b=13..30; r:=a-b|
T7-PRICE|7|M7.2|A jacket costs {p} euros. It gets {q}% cheaper. What does it cost then?|{r}|{d}=gives the reduction; {u}=makes it dearer; {m}=takes the per cent as euros|p=40,60,80,120; q=10,15,20,25,30; d:=p*q/100; r:=p-d; u:=p+d; m:=p-q|m != r; d != m; r != d
T7-EQUATION|7|M7.3|Solve: {a}x + {b} = {c}. What is x?|{x}||a=2..9; x=2..12; b=1..15; c:=a*x+b|
T7-ANGLE|7|M7.6|Two angles of a triangle are {a}° and {b}°. How large is the third?|{r}°|{s}°=adds the two; {h}°=takes 90° for the whole; {w}°=takes 360° for the whole|a=25..85; b=25..85; r:=180-a-b; s:=a+b; h:=abs(90-a); w:=360-a-b|a != b; r > 10; r != s; h > 0; h != r; h != s
T8-SLOPE|8|M8.2|What is the slope of the line through ({x}, {y}) and ({u}, {v})?|{m}||x=0..4; m=1..5; y=0..6; s=1..5; u:=x+s; v:=y+m*s|
T8-PYTHAGORAS|8|M8.4|The short sides of a right-angled triangle are {a} cm and {b} cm. How long is the longest, in cm?|{c}|{s}=adds the sides; {q}=forgets the root; {d}=|k=1..4; t=3,5,8; a:=t*k; b:=(t*t-1)/2*k*(t%2)+(1-t%2)*15*k; c:=(t*t+1)/2*k*(t%2)+(1-t%2)*17*k; s:=a+b; q:=a*a+b*b; d:=abs(b-a)|
T8-SYSTEM|8|M8.3|x + y = {s} and x − y = {d}. What is x?|{x}|{y}=gives y; {h}=halves the sum only; {w}=|x=3..15; y=1..14; s:=x+y; d:=x-y; h:=s/2; w:=s-d|d > 0; h != x; w != x; w != y; h != y; w != h
""".strip()


def templates() -> list[tuple[str, str, str, Content, Template]]:
    """Code, grade, standard, content and variables of each."""
    return [_read(row) for row in ROWS.splitlines()]


def _read(row: str) -> tuple[str, str, str, Content, Template]:
    code, grade, standard, text, right, wrong, variables, constraints = row.split("|")
    template = {
        "variables": [_variable(v.strip()) for v in variables.split(";") if v.strip()],
        "constraints": [c.strip() for c in constraints.split(";") if c.strip()],
    }
    if wrong:
        pairs = [(right, "")] + [(w.partition("=")[0].strip(), w.partition("=")[2].strip()) for w in wrong.split(";")]
        part: dict[str, Any] = {
            "type": "choice",
            "options": [{"id": LETTERS[at], "html": shown} for at, (shown, _) in enumerate(pairs)],
        }
        scoring, notes = (
            {"key": "A"},
            [{"answer": LETTERS[at], "note": note} for at, (_, note) in enumerate(pairs) if note],
        )
    else:
        part, scoring, notes = {"type": "entry", "numeric": True}, {"key": right}, []
    content = {
        "shown": {"body": f"<p>{text}</p>", "parts": [part]},
        "scoring": [scoring],
        "behind": {"misconceptions": notes},
    }
    return code, grade, standard, read_content(content), read_template(template)


def _variable(text: str) -> dict[str, Any]:
    if ":=" in text:
        name, _, value = text.partition(":=")
        return {"type": "computed", "name": name.strip(), "value": value.strip()}
    name, _, values = text.partition("=")
    if ".." in values:
        low, _, rest = values.partition("..")
        high, _, step = rest.partition("/")
        return {"type": "number", "name": name.strip(), "low": low, "high": high, "step": step or "1"}
    return {"type": "list", "name": name.strip(), "values": values.split(",")}
