/** A number for each person of a page, the same wherever the page names them; for use while names are hidden. */
export function aliases(): (person: string) => number {
	const numbers = new Map<string, number>();
	return (person) => {
		const number = numbers.get(person) ?? numbers.size;
		numbers.set(person, number);
		return number;
	};
}
