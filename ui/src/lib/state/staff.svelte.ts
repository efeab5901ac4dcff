import { api, body, tokens, type Schemas } from '$lib/api/client';
import { formats } from '$lib/words/formats.svelte';
import { setZone } from '$lib/words/show';

/** Who is signed in, the year with its windows, and whether names are hidden. */
class Staff {
	me = $state<Schemas['Me'] | null>(null);
	calendar = $state<Schemas['CalendarOut'] | null>(null);
	/** What each standard's code means; asked for once. */
	texts = $state.raw<Record<string, Schemas['CodeText']>>({});
	veiled = $state(sessionStorage.getItem('veil') === 'on');

	async load() {
		const me = await body(api.GET('/api/me'));
		tokens.staff = me.csrf;
		setZone(me.zone);
		formats.set(me.formats);
		if (me.may.includes('sessions.read') && !me.must_change) await this.loadCalendar();
		if (!me.must_change && me.stations.length) void this.loadTexts();
		this.me = me; // last: pages start once the year is known
	}

	async loadCalendar() {
		this.calendar = await body(api.GET('/api/calendar'));
	}

	async loadTexts() {
		try {
			this.texts = await body(api.GET('/api/standards/texts'));
		} catch {
			/* codes then stand without their texts */
		}
	}

	/** Whether single letters do something; off for who speaks to the device (WCAG 2.1.4). */
	get letterKeys() {
		return this.me?.letter_keys ?? true;
	}

	async setLetterKeys(on: boolean) {
		if (this.me) this.me.letter_keys = on; // at once: the next key may come before the answer
		await api.PUT('/api/me/letter-keys', { body: { on } });
	}

	may(action: string) {
		return this.me?.may.includes(action) ?? false;
	}

	toggleVeil() {
		this.veiled = !this.veiled;
		sessionStorage.setItem('veil', this.veiled ? 'on' : 'off');
	}

	/** A name as shown: while veiled a steady alias by its place in this view. */
	name(name: string, place: number) {
		return this.veiled ? `Student ${String(place + 1).padStart(2, '0')}` : name;
	}

	/** The window in the address, else the one going on, else the latest that is over. */
	window(chosen: string | null): Schemas['WindowOut'] | null {
		const all = this.calendar?.windows ?? [];
		const today = this.calendar?.today ?? '';
		return (
			all.find((w) => w.id === chosen) ??
			all.find((w) => w.start <= today && today <= w.end) ??
			all.filter((w) => w.end < today).at(-1) ??
			all[0] ??
			null
		);
	}
}

export const staff = new Staff();
