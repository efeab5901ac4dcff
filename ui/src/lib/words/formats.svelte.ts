/** How the district writes dates and times; set once it is known, the same on every page. */
type Formats = { locale: string; hours: 12 | 24; weekStart: 0 | 1 };

const KINDS: Record<string, Formats> = {
	'en-US': { locale: 'en-US', hours: 12, weekStart: 0 },
	'en-GB': { locale: 'en-GB', hours: 24, weekStart: 1 }
};

let now = $state<Formats>(KINDS['en-US']!);

export const formats = {
	get locale() {
		return now.locale;
	},
	get hours() {
		return now.hours;
	},
	get weekStart() {
		return now.weekStart;
	},
	set(kind: string) {
		now = KINDS[kind] ?? now;
	}
};
