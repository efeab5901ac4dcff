/** What the grid is asked for, as the address has it. */
export const WHO = ['klass', 'group', 'school', 'grade', 'subject', 'person'] as const;
const WHAT = ['domain', 'first', 'last', 'since', 'priority', 'taught', 'whole'] as const;

export type Asked = Record<Exclude<(typeof WHO)[number], 'person'> | (typeof WHAT)[number], string> & {
	person: string[];
};

export function asked(url: URL): Asked {
	const found = Object.fromEntries([...WHO, ...WHAT].map((name) => [name, url.searchParams.get(name) ?? '']));
	return { ...found, person: url.searchParams.getAll('person') } as Asked;
}

/** who: of whom, which may be remembered; what: narrowed by the address. */
export function toQuery(who: Asked, what: Asked) {
	return {
		klass: who.klass,
		group: who.group,
		school: who.school,
		grade: who.grade,
		subject: who.subject,
		person: who.person,
		domain: what.domain,
		priority: what.priority === 'yes',
		taught: what.taught === 'yes',
		whole: what.whole === 'yes',
		...(what.first ? { first: what.first } : {}),
		...(what.last ? { last: what.last } : {}),
		...(what.since ? { since: what.since } : {})
	};
}

/** Of an address; what is empty is left out. */
export function toAddress(some: Asked, change: Partial<Asked>): URLSearchParams {
	const query = new URLSearchParams();
	for (const [name, value] of Object.entries({ ...some, ...change }))
		for (const one of [value].flat()) if (one) query.append(name, one);
	return query;
}
