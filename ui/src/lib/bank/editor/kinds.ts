import type { Schemas } from '$lib/api/client';
import type { AnyPart, Option } from '$lib/sitting/question/answer';

export type Scoring = Schemas['PartScoring'];
export type Content = Schemas['Content'];

/** A scoring with nothing special about it. */
export function plainScoring(id: string, key: string, points = 1): Scoring {
	return {
		id,
		key,
		points,
		partial: false,
		writing: 'any',
		units: [],
		unit_needed: false,
		spelling: 'plain',
		needs: '',
		carried: [],
		credit: [],
		lowest: 0,
		rubric: [],
		exemplars: []
	};
}

const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ';
export const letters = (n: number): Option[] => [...LETTERS.slice(0, n)].map((id) => ({ id, html: '' }));
const named = (prefix: string, n: number): Option[] =>
	Array.from({ length: n }, (_, at) => ({ id: `${prefix}${at + 1}`, html: '' }));

/** The next free name among some. */
export function freeName(taken: string[], prefix = ''): string {
	if (!prefix) return [...LETTERS].find((l) => !taken.includes(l)) ?? `Z${taken.length}`;
	let n = 1;
	while (taken.includes(`${prefix}${n}`)) n++;
	return `${prefix}${n}`;
}

export const KINDS: [string, string][] = [
	['choice', 'Multiple choice'],
	['multiple', 'Multiple select'],
	['numeric', 'Numeric entry'],
	['text', 'Short text'],
	['order', 'Ordering'],
	['match', 'Matching'],
	['category', 'Sorting into categories'],
	['hot_text', 'Hot text'],
	['line', 'Number line'],
	['point', 'Hot spot'],
	['writing', 'Constructed response (rubric)']
];

/** A part of a kind as it begins, with its scoring. */
export function begin(kind: string, id: string): { part: AnyPart; scoring: Scoring } {
	const base = { id, prompt: '' };
	const plain = (key: string, points = 1) => plainScoring(id, key, points);
	switch (kind) {
		case 'multiple':
			return { part: { ...base, type: 'choice', most: 0, options: letters(5) }, scoring: plain('A+B', 2) };
		case 'numeric':
			return {
				part: { ...base, type: 'entry', numeric: true, unit: '', width: 12, inline: false },
				scoring: plain('')
			};
		case 'text':
			return {
				part: { ...base, type: 'entry', numeric: false, unit: '', width: 24, inline: false },
				scoring: plain('')
			};
		case 'order':
			return { part: { ...base, type: 'order', options: named('o', 4) }, scoring: plain('o1>o2>o3>o4') };
		case 'match':
		case 'category':
			return {
				part: { ...base, type: 'match', sorted_into: kind === 'category', rows: named('r', 4), columns: named('c', 2) },
				scoring: { ...plain('r1=c1;r2=c1;r3=c2;r4=c2', 2), partial: true }
			};
		case 'hot_text':
			return { part: { ...base, type: 'hot_text', most: 1, text: '' }, scoring: plain('') };
		case 'line':
			return { part: { ...base, type: 'line', low: 0, high: 10, step: 1, every: 1 }, scoring: plain('5') };
		case 'point':
			return { part: { ...base, type: 'point', picture: '', told: '', width: 600, height: 400 }, scoring: plain('') };
		case 'writing':
			return {
				part: { ...base, type: 'writing', lines: 8, longest: 4000, beside: '' },
				scoring: {
					...plain('', 4),
					rubric: ['Content', 'Language'].map((title) => ({
						title,
						levels: [0, 1, 2].map((points) => ({ points, text: '' }))
					}))
				}
			};
		case 'gap':
			return { part: { ...base, type: 'entry', numeric: true, unit: '', width: 6, inline: true }, scoring: plain('') };
		case 'menu':
			return { part: { ...base, type: 'menu', options: letters(3) }, scoring: plain('A') };
		case 'reason':
			return {
				part: { ...base, type: 'writing', lines: 3, longest: 1000, beside: '1', prompt: '<p>How do you know?</p>' },
				scoring: plain('', 0)
			};
		default:
			return { part: { ...base, type: 'choice', most: 1, options: letters(4) }, scoring: plain('A') };
	}
}
