import { describe, expect, it } from 'vitest';
import { calculate, shownNumber } from './calculation';

describe('a scientific calculation', () => {
	it.each([
		['2 + 3 × 4', 14],
		['(2 + 3) × 4', 20],
		['2^3^2', 512],
		['−2^2', -4],
		['2π', 6.28318530718],
		['√(9) + √(16)', 7],
		['√9^2', 9],
		['sin(30)', 0.5],
		['cos(60) + tan(45)', 1.5],
		['log(1000) − ln(e)', 2],
		['5!', 120],
		['200 × 15%', 30],
		['0.1 + 0.2', 0.3],
		['3(4 + 1)', 15],
		['2E−3 × 1000', 2],
		['8 ÷ 2 ÷ 2', 2]
	])('%s', (text, value) => expect(calculate(text)).toBeCloseTo(value, 9));

	it.each(['1 ÷ 0', '√(−1)', 'tan(90)', '(2 + 3', '2 +', '2 ? 3', '', '0.5!', ')'])('%s has no value', (text) =>
		expect(() => calculate(text)).toThrow()
	);

	it('shows long numbers in powers of ten', () => {
		expect([shownNumber(-2.5), shownNumber(2e15), shownNumber(0)]).toEqual(['−2.5', '2.000000E15', '0']);
	});
});
