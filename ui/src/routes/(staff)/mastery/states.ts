import type { Schemas } from '$lib/api/client';
import { decimal, percent } from '$lib/words/show';

/** States as the server names them, in order. */
export const STATES = ['not assessed', 'insufficient evidence', 'beginning', 'developing', 'mastered', 'retained'];
/** Tints of states: beginning 2, developing 3, mastered 4, retained 5, insufficient none. */
export const TINTS = [
	'transparent',
	'transparent',
	'var(--color-relief2)',
	'var(--color-relief3)',
	'var(--color-relief4)',
	'var(--color-relief5)'
];
export const SHORT = ['', 'insufficient', 'beginning', 'developing', 'mastered', 'retained'];
export const inkOn = (state: number) => (state === 2 ? 'var(--color-white)' : 'var(--color-ink)');
/** Signs of a cell, added up. */
export const RISING = 1;
export const FALLING = 2;
export const AGAIN = 4;
export const LAPSED = 8;
export const CHANGED = 16;

/** A cell in words. */
export function cellWords(row: Schemas['GridRow'], at: number): string {
	const state = row.states[at] ?? 0;
	const share = row.shares[at] ?? null;
	const amount = row.amounts[at] ?? 0;
	const sign = row.signs[at] ?? 0;
	return [
		state === 1 ? `insufficient evidence, ${decimal(amount, 0)} points` : STATES[state],
		share === null ? '' : `${percent(share)} of ${decimal(amount, 0)} points`,
		sign & RISING ? 'rising' : sign & FALLING ? 'falling' : '',
		sign & AGAIN ? 'check again' : '',
		sign & LAPSED ? 'lapsed' : '',
		sign & CHANGED ? 'changed lately' : ''
	]
		.filter(Boolean)
		.join(', ');
}

/** A standard's code without what all of its framework share. */
export const shortCode = (code: string) => code.split('-').at(-1) ?? code;
