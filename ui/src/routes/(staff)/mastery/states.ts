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
