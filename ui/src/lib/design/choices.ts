/** One thing that can be chosen. `more` stands beside it in the list, in small. */
export type Choice<T> = { value: T; label: string; more?: string; disabled?: boolean };

/** Choices out of plain words, each its own value; those whose words differ as pairs. */
export function choices<T extends string>(...of: (T | [T, string])[]): Choice<T>[] {
	return of.map((one) => (typeof one === 'string' ? { value: one, label: one } : { value: one[0], label: one[1] }));
}
