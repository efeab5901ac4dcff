/** Which column rows are ordered by, and whether the largest comes first. */
export type Order = { by: string; down: boolean };

/** The rows in that order; where a column has no entry here, as they came. Numbers inside words count as numbers. */
export function ordered<T>(
	rows: readonly T[],
	order: Order,
	columns: Record<string, (row: T) => string | number>
): T[] {
	const of = columns[order.by];
	if (!of) return [...rows];
	const words = new Intl.Collator('en', { numeric: true });
	const sign = order.down ? -1 : 1;
	return [...rows].sort((a, b) => {
		const [x, y] = [of(a), of(b)];
		return sign * (typeof x === 'number' && typeof y === 'number' ? x - y : words.compare(String(x), String(y)));
	});
}
