/** A drawing beside an answer: strokes of a pen and pieces that are laid out, in units of a sheet 600 wide and 360 high. */
export type Stroke = { color: string; points: number[] };
export type Piece = { kind: 'counter' | 'tile'; text: string; x: number; y: number };
export type Sketch = { version: 1; strokes: Stroke[]; pieces: Piece[] };

export const WIDTH = 600;
export const HEIGHT = 360;
export const PIECE = 34;
const LONGEST = 55_000;
const REACH = 12;

export function readSketch(text: string): Sketch {
	try {
		const found: unknown = JSON.parse(text || 'null');
		const s = found as Partial<Sketch> | null;
		if (s?.version === 1 && Array.isArray(s.strokes) && Array.isArray(s.pieces)) return s as Sketch;
	} catch {
		/* begun anew */
	}
	return { version: 1, strokes: [], pieces: [] };
}

/** As it is kept; the oldest strokes go where it would be too long. */
export function writeSketch(sketch: Sketch): string {
	const strokes = sketch.strokes.map((s) => ({ color: s.color, points: s.points.map(Math.round) }));
	if (!strokes.length && !sketch.pieces.length) return '';
	for (;;) {
		const text = JSON.stringify({ version: 1, strokes, pieces: sketch.pieces });
		if (text.length <= LONGEST || !strokes.length) return text;
		strokes.shift();
	}
}

/** A stroke without points that lie so close together that nobody sees the difference. */
export function thinned(points: readonly number[], least = 2): number[] {
	const found = points.slice(0, 2);
	for (let at = 2; at < points.length; at += 2) {
		const [x, y] = [points[at]!, points[at + 1]!];
		const dx = x - found.at(-2)!;
		const dy = y - found.at(-1)!;
		if (dx * dx + dy * dy >= least * least || at === points.length - 2) found.push(x, y);
	}
	return found;
}

/** Strokes that an eraser at a place leaves. */
export function without(strokes: readonly Stroke[], x: number, y: number): Stroke[] {
	return strokes.filter((s) => !touches(s, x, y));
}

function touches({ points }: Stroke, x: number, y: number): boolean {
	for (let at = 0; at < points.length; at += 2) {
		const [ax, ay] = [points[at]!, points[at + 1]!];
		const [bx, by] = [points[at + 2] ?? ax, points[at + 3] ?? ay];
		const length = (bx - ax) ** 2 + (by - ay) ** 2;
		const along = length ? Math.max(0, Math.min(1, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length)) : 0;
		if ((ax + along * (bx - ax) - x) ** 2 + (ay + along * (by - ay) - y) ** 2 <= REACH ** 2) return true;
	}
	return false;
}

export function path(points: readonly number[]): string {
	if (points.length === 2) return `M${points[0]} ${points[1]}h.1`;
	let text = '';
	for (let at = 0; at < points.length; at += 2) text += `${at ? 'L' : 'M'}${points[at]} ${points[at + 1]}`;
	return text;
}
