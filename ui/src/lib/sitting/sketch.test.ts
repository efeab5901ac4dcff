import { describe, expect, it } from 'vitest';
import { path, readSketch, thinned, without, writeSketch } from './sketch';

describe('a sketch', () => {
	it('is read as it was written, and anything else begins anew', () => {
		const drawn = {
			version: 1 as const,
			strokes: [{ color: '0', points: [1, 2, 30, 40] }],
			pieces: [{ kind: 'tile' as const, text: '10', x: 5, y: 6 }]
		};
		expect(readSketch(writeSketch(drawn))).toEqual(drawn);
		for (const wrong of ['', '{', '[]', '{"version":2,"strokes":[],"pieces":[]}'])
			expect(readSketch(wrong)).toEqual({ version: 1, strokes: [], pieces: [] });
		expect(writeSketch(readSketch(''))).toBe('');
	});

	it('lets its oldest lines go before it would be refused', () => {
		const points = Array.from({ length: 4000 }, (_, at) => at % 600);
		const strokes = Array.from({ length: 12 }, (_, at) => ({ color: String(at % 3), points }));
		const text = writeSketch({ version: 1, strokes, pieces: [] });
		expect(text.length).toBeLessThan(60_000);
		expect(readSketch(text).strokes.at(-1)!.color).toBe('2');
	});

	it('keeps ends of a line, and loses what nobody sees', () => {
		expect(thinned([0, 0, 0.5, 0, 1, 0, 5, 0, 5.2, 0])).toEqual([0, 0, 5, 0, 5.2, 0]);
	});

	it('is erased where it is touched, between its points as well', () => {
		const line = { color: '0', points: [0, 0, 100, 0] };
		expect(without([line], 50, 8)).toEqual([]);
		expect(without([line], 50, 30)).toEqual([line]);
		expect(path([3, 4])).toBe('M3 4h.1');
	});
});
